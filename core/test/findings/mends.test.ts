import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { parse } from 'yaml'
import {
  analyseStanding,
  compile,
  familyOfCode,
  findAll,
  FINDING_CODES,
  isRefusal,
  mendOf,
  mendsOf,
  readEstate,
  shareWith,
  trace,
  writeJson,
  type Estate,
  type Finding,
  type FindingCode,
  type Model,
} from '../../src/index'
import { made } from '../changes/made'
import { randomEstate } from '../random/estate'
import { runs } from '../random/runs'
import { mergePatch, modelOf } from '../trace/fixtures'

function demo(): Estate {
  const folder = join(__dirname, '../../../demo')
  const files = readdirSync(folder).filter((name) => name.endsWith('.yaml'))
  return readEstate(files.map((name) => ({ name, text: readFileSync(join(folder, name), 'utf8') })))
    .estate!
}

interface Peered {
  readonly peerings: Record<string, { readonly a: object; readonly b: object }>
}
const hasPeerings = (estate: object): estate is Peered => 'peerings' in estate

/** The same estate with the two sides of every peering swapped. */
function mirrored(estate: Peered): object {
  const swapped = Object.entries(estate.peerings).map(([id, { a, b, ...rest }]) => [
    id,
    { ...rest, a: b, b: a },
  ])
  return { ...estate, peerings: Object.fromEntries(swapped) }
}

/** Every estate that shows a finding, or its twin. */
function fixtureEstates(): object[] {
  const folder = join(__dirname, 'fixtures')
  const fixtures = readdirSync(folder).map(
    (file) =>
      parse(readFileSync(join(folder, file), 'utf8')) as {
        estate: object
        cases: { edit?: object }[]
      },
  )
  return fixtures.flatMap(({ estate, cases }) =>
    cases.map(({ edit }) => mergePatch(estate, edit ?? {}) as object),
  )
}
const modelsOf = (estates: readonly object[]): Model[] =>
  estates.map((estate) => modelOf(estate as Record<string, unknown>))

/** What a finding says of its packets; with fewer of them it says less. */
const said = (findings: readonly Finding[], fingerprint: string): string | undefined => {
  const one = findings.find((each) => each.fingerprint === fingerprint)
  return one && JSON.stringify([one.sentence, one.evidence.ranges, one.evidence.question])
}

/**
 * Of these the estate alone does not say what was meant: a larger quota, where else a host should
 * stand, other ranges.
 */
const WITHOUT: readonly FindingCode[] = [
  'odd-unlike',
  'odd-quota',
  'odd-shared-inspection-subnet',
  'hole-overlap',
]

const mended = new Set<FindingCode>()

/**
 * Makes the mend of every finding of an estate: the finding is gone, or says less, and what is left
 * is an estate.
 */
function mendAll(model: Model, codes: (code: FindingCode) => boolean): object[] {
  const failed: object[] = []
  const { standing, change } = analyseStanding(model.estate)
  const before = standing().findings
  for (const one of before) {
    const mend = codes(one.code) ? mendOf(model, one) : null
    if (mend === null) continue
    const changed = made(model.estate, mend.changes)
    change(shareWith(model.estate, changed))
    const after = standing().findings
    const read = readEstate([{ name: 'mended', text: writeJson(changed) }])
    const errors = read.problems.filter(({ severity }) => severity === 'error')
    if (errors.length > 0 || said(after, one.fingerprint) === said(before, one.fingerprint))
      failed.push({ code: one.code, sentence: one.sentence, mend, errors })
    else mended.add(one.code)
  }
  return failed
}

test('the mend of a finding takes it away, or some of what it says, in every estate that shows one', () => {
  expect(modelsOf(fixtureEstates()).flatMap((model) => mendAll(model, () => true))).toEqual([])
})

test('the same with the sides of every peering swapped, where findings are the same too', () => {
  const peered = fixtureEstates().filter(hasPeerings)
  const swapped = modelsOf(peered.map(mirrored))
  expect(swapped.length).toBeGreaterThan(10)
  expect(swapped.flatMap((model) => mendAll(model, () => true))).toEqual([])
  const found = (models: Model[]): object[] =>
    models.map((model) =>
      findAll(model)!.findings.map(({ code, anchor, severity }) => ({ code, anchor, severity })),
    )
  expect(found(swapped)).toEqual(found(modelsOf(peered)))
})

test('the same for leaks in random estates', () => {
  for (let seed = 0; seed < runs(2); seed++)
    expect(
      mendAll(modelOf(randomEstate(seed).estate), (code) =>
        /^(leak|in|open|idle)-|^odd-(nat|steers|crosses|changing|no-rules)/.test(code),
      ),
    ).toEqual([])
})

test('a blackhole and the trace of the packet that shows it bring the same mends', () => {
  const compared = new Set<FindingCode>()
  for (const model of [...modelsOf(fixtureEstates()), compile(demo())])
    for (const one of findAll(model)!.findings) {
      if (familyOfCode(one.code) !== 'hole') continue
      const { question } = one.evidence
      const answer = question && trace(model, question)
      if (!answer || isRefusal(answer) || answer.cause === null) continue
      const plan = mendsOf(model, question)
      if (isRefusal(plan)) throw new Error(plan.message)
      const changes = plan.mends.flatMap((mend) => mend.changes)
      expect([one.code, one.sentence, mendOf(model, one)?.changes ?? []]).toEqual([
        one.code,
        one.sentence,
        changes,
      ])
      if (changes.length > 0) compared.add(one.code)
    }
  expect(compared.size).toBeGreaterThan(10)
})

test.each(FINDING_CODES.filter((code) => !WITHOUT.includes(code)))(
  '%s has a mend in some estate',
  (code) => expect(mended).toContain(code),
)
