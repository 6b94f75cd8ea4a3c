import type { HopRangeJson } from '@salt-trail/core'
import fc from 'fast-check'
import {
  kindOfRange,
  placeOf,
  placeOn,
  scaleOf,
  shareAt,
  stretchesOf,
  zoomed,
} from '~/views/next-hops/ruler'

const range = (family: 4 | 6, from: string): HopRangeJson =>
  ({ family, from, to: from }) as HopRangeJson

test('an address lies in the space of its family between 0 and 1', () => {
  expect([placeOf('0.0.0.0'), placeOf('128.0.0.0'), placeOf('8000::'), placeOf('::')]).toEqual([
    0, 0.5, 0.5, 0,
  ])
})

test('stretches of a family follow one another without gaps, to the end of the space', () => {
  const ranges = [range(4, '0.0.0.0'), range(6, '::'), range(4, '64.0.0.0'), range(4, '64.0.1.0')]
  const stretches = stretchesOf(ranges, 4)
  expect([stretches[0]!.from, stretches.at(-1)!.to]).toEqual([0, 1])
  for (const [at, { from }] of stretches.slice(1).entries()) expect(from).toBe(stretches[at]!.to)
  expect(stretchesOf(ranges, 6)).toHaveLength(1)
})

test('a subnet has room beside the internet, and rulers under each other are aligned', () => {
  const ranges = [range(4, '0.0.0.0'), range(4, '64.0.0.0'), range(4, '64.0.1.0')]
  const subnet = stretchesOf(ranges, 4)[1]!
  expect(subnet.to - subnet.from).toBeGreaterThan(0.1)
  const other = [range(4, '0.0.0.0'), range(4, '64.0.1.0')]
  const scale = scaleOf([ranges, other], 4)
  expect(stretchesOf(other, 4, scale)[1]!.from).toBe(stretchesOf(ranges, 4, scale)[2]!.from)
})

test('an address and its place on the ruler lead to each other', () => {
  const scale = scaleOf([[range(4, '0.0.0.0'), range(4, '10.0.0.0'), range(4, '10.0.1.0')]], 4)
  fc.assert(
    fc.property(fc.double({ min: 0, max: 1, noNaN: true }), (share) => {
      expect(shareAt(scale, placeOn(scale, share))).toBeCloseTo(share, 6)
    }),
  )
})

test('zooming stays inside the space and keeps the place in sight', () => {
  const share = fc.double({ min: 0, max: 1, noNaN: true })
  fc.assert(
    fc.property(share, share, fc.constantFrom(0.5, 2), (a, b, by) => {
      const sight = { from: Math.min(a, b), to: Math.max(a, b) }
      const round = (sight.from + sight.to) / 2
      const next = zoomed(sight, by, round)
      expect(next.from).toBeGreaterThanOrEqual(0)
      expect(next.to).toBeLessThanOrEqual(1)
      expect(next.from <= round && round <= next.to).toBe(true)
    }),
  )
  expect(zoomed({ from: 0, to: 1 }, 2, 0.5)).toEqual({ from: 0, to: 1 })
})

test.each([
  ['lost', { cause: { code: 'no-route' as const, object: 'x' }, way: ['nats/n'] }],
  ['inspected', { way: ['firewalls/wall', 'nats/n'] }],
  ['translated', { way: ['nats/n', 'gateways/door'] }],
  ['service', { way: ['endpoints/shelf'] }],
  ['service', { way: ['service-switch'] }],
  ['local', { way: [] }],
  ['private-line', { way: ['peerings/p'] }],
  ['private-line', { way: ['gateways/line'], leavesBy: null }],
  ['direct', { way: ['gateways/door'] }],
] as const)('a range is %s by the strongest thing on its way', (kind, one) => {
  expect(kindOfRange({ cause: null, leavesBy: 'gateways/door', ...one } as never)).toBe(kind)
})
