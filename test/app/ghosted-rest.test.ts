import type { Branch, StationJson, Trace } from '@salt-trail/core'
import { withGhostedRest } from '~/views/trace/ghosted-rest'

const station = (at: string, assumed?: true): StationJson => ({
  at,
  kind: 'lookup',
  decision: '',
  packet: { src: '10.0.0.1', dst: '1.0.0.0', protocol: 'tcp', srcPort: 50000, dstPort: 443 },
  evidence: {},
  ...(assumed && { assumed }),
})

const branch = (over: Partial<Branch>): Branch => ({
  verdict: 'works',
  cause: null,
  seenAs: [],
  way: [],
  leavesBy: null,
  forward: { outcome: 'delivered', stations: [] },
  return: null,
  assumed: [],
  faults: [],
  ...over,
})
const cause = (direction: 'forward' | 'return', at: number) =>
  ({ code: 'target-missing', object: 'routeTables/t', direction, station: at }) as const
const lane = (...stations: StationJson[]) => ({ outcome: 'delivered' as const, stations })
const trace = (one: Branch): Trace =>
  ({ ...one, question: {}, branches: [], truncated: false }) as unknown as Trace
const names = (one: Branch): (string | undefined)[][] =>
  [one.forward, one.return].map((each) =>
    (each?.stations ?? []).map(({ at, assumed }) => (assumed ? `(${at})` : at)),
  )

test('beyond the fault stands what the first proposal makes of it, there and back', () => {
  const lost = branch({
    verdict: 'blackholed',
    cause: cause('forward', 1),
    forward: lane(station('host'), station('table'), station('door', true)),
    return: lane(station('door', true)),
    faults: [cause('forward', 1), cause('return', 0)],
  })
  const mended = branch({
    forward: lane(station('host'), station('table'), station('nat'), station('internet')),
    return: lane(station('internet'), station('host')),
  })
  const shown = withGhostedRest(lost, trace(mended))
  expect(names(shown)).toEqual([
    ['host', 'table', '(nat)', '(internet)'],
    ['(internet)', '(host)'],
  ])
  expect(shown.faults).toEqual([lost.cause])
})

test('a fault of the answer keeps the way there', () => {
  const lost = branch({
    verdict: 'one-way',
    cause: cause('return', 1),
    forward: lane(station('host'), station('end')),
    return: lane(station('end'), station('table'), station('wrong', true)),
  })
  const mended = branch({
    forward: lane(station('host'), station('end')),
    return: lane(station('end'), station('other-table'), station('host')),
  })
  expect(names(withGhostedRest(lost, trace(mended)))).toEqual([
    ['host', 'end'],
    ['end', 'table', '(host)'],
  ])
})

test('nothing is put there that leads another way before the fault, or does not work', () => {
  const lost = branch({
    verdict: 'blackholed',
    cause: cause('forward', 1),
    forward: lane(station('host'), station('table')),
  })
  const elsewhere = branch({ forward: lane(station('other'), station('table'), station('end')) })
  expect(withGhostedRest(lost, trace(elsewhere))).toBe(lost)
  expect(withGhostedRest(lost, trace(branch({ verdict: 'blocked' })))).toBe(lost)
  expect(withGhostedRest(lost, null)).toBe(lost)
})
