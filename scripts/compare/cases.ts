import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { parse } from 'yaml'
import { writeJson } from '@salt-trail/core'
import { edited } from '../../core/test/model/edits'
import { estateOfJson } from '../../core/test/random/read'
import { estateWithPromises } from '../../core/test/random/promises'
import { randomEstate } from '../../core/test/random/estate'
import { random } from '../../core/test/random/random'
import { mergePatch, questionOf } from '../../core/test/trace/fixtures'

/** One estate with what is asked about it, as files that the command line takes. */
export interface Case {
  readonly name: string
  readonly files: readonly { readonly name: string; readonly text: string }[]
  readonly questions: readonly object[]
  /** Another state of the estate to be told apart from the first. */
  readonly changed: string | null
}

const QUESTIONS_OF_AN_ESTATE = 40

const jsonFile = (sections: object): Case['files'][number] => ({
  name: 'estate.json',
  text: JSON.stringify({ format: 'salt-trail/1', name: 'Compared', ...sections }),
})

/** The demo, every example and fixture, and as many random estates as are wanted. */
export function* cases(root: string, randomEstates: number): Generator<Case> {
  const folder = (path: string): string[] =>
    readdirSync(join(root, path)).filter((name) => name.endsWith('.yaml'))
  const read = (path: string): { name: string; text: string } => ({
    name: path.replaceAll('/', '-'),
    text: readFileSync(join(root, path), 'utf8'),
  })
  yield {
    name: 'demo',
    files: folder('demo').map((name) => read(`demo/${name}`)),
    questions: demoQuestions(root),
    changed: null,
  }
  for (const name of folder('examples'))
    yield {
      name: `examples/${name}`,
      files: [read(`examples/${name}`)],
      questions: [],
      changed: null,
    }
  for (const kind of ['trace', 'findings'])
    yield* fixtures(root, `core/test/${kind}/fixtures`, folder(`core/test/${kind}/fixtures`))
  for (let seed = 1; seed <= randomEstates; seed++) yield randomCase(seed)
}

function* fixtures(root: string, path: string, names: readonly string[]): Generator<Case> {
  for (const name of names) {
    const { estate, cases } = parse(readFileSync(join(root, path, name), 'utf8')) as {
      estate: object
      cases: { edit?: object; ask?: string }[]
    }
    for (const [at, { edit, ask }] of cases.entries()) {
      const questions =
        ask === undefined ? [] : [questionOf(ask), { ...questionOf(ask), continue: true }]
      const changed = edit === undefined ? null : jsonFile(mergePatch(estate, edit) as object)
      yield {
        name: `${path}/${name} ${at + 1}`,
        files: [changed ?? jsonFile(estate)],
        questions,
        changed: changed && jsonFile(estate).text,
      }
    }
  }
}

/** Every interface of the demo to every other, and to each end outside. */
function demoQuestions(root: string): object[] {
  const files = readdirSync(join(root, 'demo')).filter((name) => name.endsWith('.yaml'))
  const sections = files.map(
    (name) =>
      parse(readFileSync(join(root, 'demo', name), 'utf8')) as Record<string, object | undefined>,
  )
  const ids = (section: string, kind: string): string[] =>
    sections.flatMap((one) => Object.keys(one[section] ?? {})).map((id) => `${kind}:${id}`)
  const hosts = ids('interfaces', 'interface')
  const outside = [
    'internet',
    ...ids('sites', 'site'),
    ...ids('parties', 'party'),
    ...ids('services', 'service'),
  ]
  const pairs = [...hosts, ...outside].flatMap((from) =>
    [...hosts, ...outside].filter((to) => to !== from).map((to) => ({ from, to, port: 443 })),
  )
  return pairs.filter((_, at) => at % 7 === 0)
}

function randomCase(seed: number): Case {
  const { ends } = randomEstate(seed)
  const r = random(seed * 7919)
  const questions = Array.from({ length: QUESTIONS_OF_AN_ESTATE }, () => {
    const protocol = r.pick(['tcp', 'tcp', 'udp', 'icmp'])
    const ports =
      protocol === 'icmp' ? {} : { port: r.pick([443, 8443, 22]), sourcePort: r.pick([50000, 500]) }
    return {
      from: r.pick(ends.slice(0, -2)),
      to: r.pick(ends),
      protocol,
      ...ports,
      ...(r.chance(30) ? { continue: true } : {}),
    }
  })
  const estate = estateWithPromises(seed)
  const after = seed % 5 === 0 ? writeJson(edited(estate, r)) : null
  const changed = after !== null && isValid(after) ? after : null
  return {
    name: `random ${seed}`,
    files: [{ name: 'estate.json', text: writeJson(estate) }],
    questions,
    changed,
  }
}

function isValid(text: string): boolean {
  const { format: _format, name: _name, ...sections } = JSON.parse(text) as Record<string, unknown>
  return (estateOfJson(sections) as object | null) !== null
}
