import { applyChanges, compile, isRefusal, mendsOf, readEstate, trace, writeJson, type Branch, type CauseCode, type Trace } from '../../src/index'
import { randomEstate } from '../random/estate'
import { random } from '../random/random'
import { fixtures, modelOf, questionOf } from '../trace/fixtures'

/** What no change of the estate alone mends: nobody knows what was meant. */
const WITHOUT: readonly CauseCode[] = ['nat-outbound-only', 'nobody-has-it', 'name-unknown']

const failing = fixtures().flatMap(({ name, fixture }) =>
  fixture.cases
    .filter((one) => one.cause)
    .map((one) => ({ label: `${name}: ${one.why} (${one.ask})`, fixture, one, code: one.cause!.split(' ')[0] as CauseCode })),
)
const worst = (answer: Trace): Branch => answer.branches.find((one) => one.verdict === answer.verdict) ?? answer
const faultOf = ({ cause }: Branch): string | null => cause && [cause.code, cause.object, cause.direction, cause.station, cause.inner?.code].join(' ')

describe('the first mend of a fault makes it go', () => {
  const mended = new Set<CauseCode>()
  test.each(failing.map((one) => [one.label, one] as const))('%s', (_, { fixture, one, code }) => {
    const model = modelOf(fixture.estate, one.edit)
    const question = { ...questionOf(one.ask), continue: true }
    const before = trace(model, question)
    if (isRefusal(before)) throw new Error(before.message)
    const mend = mendsOf(model, worst(before)).find(({ fault }) => fault === 0)
    if (!mend) return
    const changed = applyChanges(model.estate, mend.changes)
    // What a mend makes of an estate is an estate.
    const read = readEstate([{ name: 'mended', text: writeJson(changed) }])
    expect(read.problems.filter((problem) => problem.severity === 'error')).toEqual([])
    const after = trace(compile(read.estate!), question)
    if (isRefusal(after)) throw new Error(after.message)
    expect(faultOf(worst(after))).not.toBe(faultOf(worst(before)))
    mended.add(code)
  })
  test.each([...new Set(failing.map(({ code }) => code))].filter((code) => !WITHOUT.includes(code)))('%s has one', (code) => expect(mended).toContain(code))
})

test('no tangled estate makes a mend throw, or refer to what it cannot change', () => {
  for (let seed = 1; seed <= 40; seed++) {
    const { estate, ends } = randomEstate(seed)
    const model = modelOf(estate)
    const r = random(seed)
    for (let i = 0; i < 40; i++) {
      const answer = trace(model, { from: r.pick(ends.slice(0, -2)), to: r.pick(ends), port: 443, continue: true })
      if (isRefusal(answer)) continue
      for (const { changes, sentence } of mendsOf(model, answer)) {
        expect(sentence).not.toContain('undefined')
        expect(() => applyChanges(model.estate, changes)).not.toThrow()
      }
    }
  }
})

test('a change shares everything it leaves alone', () => {
  const { estate } = modelOf(randomEstate(3).estate)
  const changed = applyChanges(estate, [{ op: 'add', path: '/subnets/a-s0/routeTable', value: 'a-t1' }])
  expect(changed.subnets.get('a-s0')!.routeTable).toBe('a-t1')
  expect(changed.subnets.get('a-s1')).toBe(estate.subnets.get('a-s1'))
  expect(changed.routeTables).toBe(estate.routeTables)
})

test('pointers carry ids with slashes', () => {
  const { estate } = modelOf({ networks: { 'a/b': { ranges: ['10.1.0.0/16'] } } })
  const changed = applyChanges(estate, [
    { op: 'add', path: '/networks/a~1b/ranges/-', value: '10.2.0.0/16' },
    { op: 'remove', path: '/networks/a~1b/ranges/0' },
  ])
  expect(changed.networks.get('a/b')!.ranges).toEqual(['10.2.0.0/16'])
})
