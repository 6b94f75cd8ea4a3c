import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { parse } from 'yaml'
import {
  compile,
  findAll,
  FINDING_CODES,
  networkOfFinding,
  trace,
  type Finding,
  type Model,
} from '../../src/index'
import { made } from '../changes/made'
import { modelOf } from '../trace/fixtures'

/**
 * Estates with the findings they must have, and twins, one edit away (RFC 7396), that must not have
 * them: each as `code at anchor`.
 */
interface Fixture {
  readonly about: string
  readonly estate: Record<string, unknown>
  readonly cases: readonly {
    readonly why: string
    readonly edit?: unknown
    readonly has?: readonly string[]
    readonly hasNot?: readonly string[]
  }[]
}

const folder = join(__dirname, 'fixtures')
const fixtures = readdirSync(folder)
  .sort()
  .map((file) => ({
    name: file.replace('.yaml', ''),
    ...(parse(readFileSync(join(folder, file), 'utf8')) as Fixture),
  }))

const findingsOf = (model: Model): readonly Finding[] => findAll(model)!.findings
const names = (findings: readonly Finding[]): string[] =>
  findings.map(({ code, anchor }) => `${code} at ${anchor}`)

for (const { name, about, estate, cases } of fixtures) {
  describe(`${name}: ${about}`, () => {
    test.each(cases.map((one) => [one.why, one] as const))(
      '%s',
      (_, { edit, has = [], hasNot = [] }) => {
        const found = names(findingsOf(modelOf(estate, edit)))
        expect(found).toEqual(expect.arrayContaining([...has]))
        for (const unwanted of hasNot) expect(found).not.toContain(unwanted)
      },
    )
  })
}

test('every code has an estate that has it and a twin that has not', () => {
  const having = new Set<string>()
  const lacking = new Set<string>()
  for (const { cases } of fixtures) {
    for (const { has = [], hasNot = [] } of cases) {
      for (const text of has) having.add(text.split(' at ')[0]!)
      for (const text of hasNot) lacking.add(text.split(' at ')[0]!)
    }
  }
  expect(FINDING_CODES.filter((code) => !having.has(code))).toEqual([])
  expect(FINDING_CODES.filter((code) => !lacking.has(code))).toEqual([])
})

test('every finding names its anchor among its objects, says a sentence, and keeps its fingerprint', () => {
  for (const { estate, cases } of fixtures) {
    for (const { edit } of cases) {
      const found = findingsOf(modelOf(estate, edit))
      expect(found.map((one) => one.fingerprint)).toEqual(
        findingsOf(modelOf(estate, edit)).map((one) => one.fingerprint),
      )
      expect(new Set(found.map((one) => one.fingerprint)).size).toBe(found.length)
      for (const one of found) {
        expect(one.objects).toContain(one.anchor)
        expect(one.sentence).toMatch(/^.{15,}\.$/)
        for (const ref of one.objects) expect(ref).toMatch(/^[a-zA-Z]+\/.+/)
      }
    }
  }
})

test('what a route or a translator loses is shown by a question whose packet is lost there', () => {
  const asked = new Set<string>()
  for (const { estate, cases } of fixtures) {
    for (const { edit } of cases) {
      const model = modelOf(estate, edit)
      for (const { code, anchor, objects, evidence } of findingsOf(model)) {
        if (
          !['hole-dead-target', 'hole-next-hop', 'hole-nat-without-way-out'].includes(code) ||
          !evidence.question
        )
          continue
        const answer = trace(model, evidence.question)
        const said =
          'verdict' in answer
            ? [answer.verdict, answer.cause?.object, answer.cause?.inner?.object]
            : []
        expect({
          anchor,
          lost: said[0] !== 'works',
          at: objects.some((one) => said.includes(one)),
        }).toEqual({ anchor, lost: true, at: true })
        asked.add(code)
      }
    }
  }
  expect(asked.size).toBe(3)
})

test('a finding lies in the network of its anchor, else of what it concerns', () => {
  for (const { estate, cases } of fixtures) {
    for (const { edit } of cases) {
      const model = modelOf(estate, edit)
      for (const one of findingsOf(model)) {
        const network = networkOfFinding(model.estate, one)
        if (/^(subnets|routeTables|interfaces|nats|peerings|networks)\//.test(one.anchor))
          expect(model.estate.networks.has(network ?? '')).toBe(true)
        if (one.anchor.startsWith('subnets/'))
          expect(network).toBe(
            model.estate.subnets.get(one.anchor.slice('subnets/'.length))!.network,
          )
      }
    }
  }
})

test('a mend that comes with a finding takes it away', () => {
  let tried = 0
  for (const { estate, cases } of fixtures) {
    for (const { edit } of cases) {
      const model = modelOf(estate, edit)
      for (const one of findingsOf(model)) {
        if (one.mend === null) continue
        const mended = compile(made(model.estate, one.mend.changes), model)
        expect({
          of: one.sentence,
          still: findingsOf(mended).some((other) => other.fingerprint === one.fingerprint),
        }).toEqual({
          of: one.sentence,
          still: false,
        })
        tried++
      }
    }
  }
  expect(tried).toBeGreaterThan(20)
})
