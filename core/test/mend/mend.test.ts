import {
  compile,
  isRefusal,
  mendsOf,
  readEstate,
  trace,
  writeJson,
  type CauseCode,
} from '../../src/index'
import { made } from '../changes/made'
import { randomEstate } from '../random/estate'
import { random } from '../random/random'
import { fixtures, modelOf, questionOf } from '../trace/fixtures'
import { runs } from '../random/runs'

/** What no change of the estate alone mends: nobody knows what was meant. */
const WITHOUT: readonly CauseCode[] = ['nat-outbound-only', 'nobody-has-it', 'name-unknown']

const failing = fixtures().flatMap(({ name, fixture }) =>
  fixture.cases
    .filter((one) => one.cause)
    .map((one) => ({
      label: `${name}: ${one.why} (${one.ask})`,
      fixture,
      one,
      code: one.cause!.split(' ')[0] as CauseCode,
    })),
)

describe('mends make a fault go', () => {
  const mended = new Set<CauseCode>()
  test.each(failing.map((one) => [one.label, one] as const))('%s', (_, { fixture, one, code }) => {
    const model = modelOf(fixture.estate, one.edit)
    const question = questionOf(one.ask)
    const plan = mendsOf(model, question)
    if (isRefusal(plan)) throw new Error(plan.message)
    for (const mend of plan.mends) mended.add(mend.code!)
    if (plan.mends.length === 0) expect(plan.stuckAt).toMatchObject({ code })
    // What mends make of an estate is an estate, and it answers as the plan says.
    const changed = plan.mends.reduce((estate, { changes }) => made(estate, changes), model.estate)
    const read = readEstate([{ name: 'mended', text: writeJson(changed) }])
    expect(read.problems.filter((problem) => problem.severity === 'error')).toEqual([])
    const after = trace(compile(read.estate!), question)
    if (isRefusal(after)) throw new Error(after.message)
    expect({ works: after.verdict === 'works', at: after.cause }).toEqual({
      works: plan.works,
      at: plan.stuckAt,
    })
  })
  test.each(
    [...new Set(failing.map(({ code }) => code))].filter((code) => !WITHOUT.includes(code)),
  )('%s has one', (code) => expect(mended).toContain(code))
})

test('no tangled estate makes a mend throw, or say what it does not know', () => {
  for (let seed = 1; seed <= runs(15); seed++) {
    const { estate, ends } = randomEstate(seed)
    const model = modelOf(estate)
    const r = random(seed)
    for (let i = 0; i < 20; i++) {
      const plan = mendsOf(model, { from: r.pick(ends.slice(0, -2)), to: r.pick(ends), port: 443 })
      if (isRefusal(plan)) continue
      expect(plan.works).toBe(plan.stuckAt === null)
      for (const { what: sentence } of plan.mends) expect(sentence).not.toMatch(/undefined|null/)
    }
  }
})

test('a change shares everything it leaves alone', () => {
  const { estate } = modelOf(randomEstate(3).estate)
  const changed = made(estate, [{ op: 'add', path: '/subnets/a-s0/routeTable', value: 'a-t1' }])
  expect(changed.subnets.get('a-s0')!.routeTable).toBe('a-t1')
  expect(changed.subnets.get('a-s1')).toBe(estate.subnets.get('a-s1'))
  expect(changed.routeTables).toBe(estate.routeTables)
})

test('pointers carry ids with slashes', () => {
  const { estate } = modelOf({ networks: { 'a/b': { ranges: ['10.1.0.0/16'] } } })
  const changed = made(estate, [
    { op: 'add', path: '/networks/a~1b/ranges/-', value: '10.2.0.0/16' },
    { op: 'remove', path: '/networks/a~1b/ranges/0' },
  ])
  expect(changed.networks.get('a/b')!.ranges).toEqual(['10.2.0.0/16'])
})
