import {
  checklistOf,
  firstDifference,
  mendsOf,
  trace,
  traceText,
  type Branch,
  type Trace,
} from '../../src/index'
import { ask, fixtures, modelOf } from './fixtures'

const estateOf = (name: string): Record<string, unknown> =>
  fixtures().find((one) => one.name === name)!.fixture.estate
const states = (branch: Branch): Record<string, string> =>
  Object.fromEntries(checklistOf(branch).map(({ id, state }) => [id, state]))
const inside = { stateless: 'not-needed', 'own-rules': 'not-needed' }

describe('the checklist', () => {
  test('all ticked where it works, and what is not needed says so', () => {
    expect(states(ask(modelOf(estateOf('nat-in-a-subnet')), 'interface:app-1 > internet'))).toEqual(
      {
        ...inside,
        route: 'ticked',
        target: 'ticked',
        address: 'ticked',
        way: 'ticked',
        'rules-out': 'ticked',
        'rules-in': 'not-needed',
        answer: 'ticked',
      },
    )
  })
  test('a missing route fails first, and nothing behind it is reached', () => {
    const answer = ask(
      modelOf(estateOf('nat-in-a-subnet'), { routeTables: { inside: { routes: [] } } }),
      'interface:app-1 > internet',
    )
    expect(states(answer)).toMatchObject({
      route: 'failed',
      target: 'not-reached',
      address: 'not-reached',
      'rules-in': 'not-reached',
      answer: 'not-reached',
    })
    expect(checklistOf(answer)[0]!.shown).toEqual({
      direction: 'forward',
      station: answer.cause!.station,
    })
  })
  test('a dead target', () => {
    const answer = ask(
      modelOf(estateOf('nat-in-a-subnet'), { nats: { n: { state: 'down' } } }),
      'interface:app-1 > internet',
    )
    expect(states(answer)).toMatchObject({ route: 'ticked', target: 'failed' })
  })
  test('no public address', () =>
    expect(
      states(ask(modelOf(estateOf('internet-gateway')), 'interface:web-2 > internet')),
    ).toMatchObject({ target: 'ticked', address: 'failed' }))
  test.each([
    ['rules-out', { interfaces: { 'a-1': { ruleSets: ['none'] } } }],
    ['rules-in', { interfaces: { 'b-1': { ruleSets: ['none'] } } }],
    ['own-rules', { interfaces: { 'b-1': { localRules: 'none' } } }],
    ['stateless', { subnets: { b: { boundary: 'stateless-in' } } }],
  ])('%s fails alone', (id, edit) => {
    const checks = states(ask(modelOf(estateOf('rules'), edit), 'interface:a-1 > interface:b-1'))
    expect(checks[id]).toBe('failed')
  })
  test('a stateless list that lets both ways is ticked', () => {
    const answer = ask(
      modelOf(estateOf('rules'), { subnets: { b: { boundary: 'stateless-both' } } }),
      'interface:a-1 > interface:b-1',
    )
    expect(states(answer)).toMatchObject({
      stateless: 'ticked',
      answer: 'ticked',
      address: 'not-needed',
    })
  })
  test('every path of every fixture shows its fault, and nothing failed if there is none', () => {
    for (const { fixture } of fixtures()) {
      for (const one of fixture.cases) {
        if (one.refused !== undefined) continue
        const answer = ask(modelOf(fixture.estate, one.edit), one.ask)
        const failures = checklistOf(answer).filter(({ state }) => state === 'failed')
        if (answer.verdict === 'works') expect(failures).toEqual([])
        else expect(failures).not.toEqual([])
        for (const { shown } of failures) expect(shown?.station).toBe(answer.cause!.station)
      }
    }
  })
})

describe('two paths beside each other', () => {
  const model = modelOf(estateOf('internet-gateway'))
  test('the same question has no difference', () =>
    expect(
      firstDifference(
        ask(model, 'interface:web-1 > internet'),
        ask(model, 'interface:web-1 > internet'),
      ),
    ).toBeNull())
  test('a host that works beside one that does not: they part where one fails', () => {
    const found = firstDifference(
      ask(model, 'interface:web-2 > internet'),
      ask(model, 'interface:web-1 > internet'),
    )
    expect(found).toMatchObject({ direction: 'forward', stations: [3, 3] })
    expect(found!.says[0]).toContain('no-public-address')
    expect(found!.says[1]).toContain('203.0.113.5')
  })
  test('an answer that is missing', () => {
    const broken = modelOf(estateOf('internet-gateway'), { routeTables: { out: { routes: [] } } })
    expect(
      firstDifference(
        ask(broken, 'internet > interface:web-1'),
        ask(model, 'internet > interface:web-1'),
      ),
    ).toMatchObject({ direction: 'return' })
  })
})

test('a trace as text says the verdict, both ways and what was assumed', () => {
  const model = modelOf(estateOf('nat-in-a-subnet'), { routeTables: { inside: { routes: [] } } })
  const answer = trace(model, {
    from: 'interface:app-1',
    to: 'internet',
    port: 443,
    continue: true,
  }) as Trace
  const text = traceText(answer)
  expect(text).toContain(
    'interface:app-1 to internet over tcp 443: blackholed: no-route at routeTables/inside, on the way there',
  )
  expect(text).toContain('assumed from there on')
  expect(mendsOf(model, { from: 'interface:app-1', to: 'internet', port: 443 })).toMatchObject({
    works: true,
    mends: [{ what: 'route 0.0.0.0/0 by nat n' }],
  })
})
