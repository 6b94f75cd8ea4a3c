import fc from 'fast-check'
import { highestOf, lowestOf, type Address } from '../../src/address/address'
import { containsAddress, lastAddress, type Prefix } from '../../src/address/prefix'
import {
  firstFrom,
  firstPart,
  intersectRanges,
  partsWithin,
  prefixesOfRange,
  rangeIndex,
  rangesContain,
  rangeSet,
  rangeSetOf,
  spanAround,
  subtractRanges,
  type Range,
  type RangeSet,
} from '../../src/address/ranges'

/**
 * A few addresses at both ends and in the middle of each family: every law is then tried address by
 * address.
 */
const FOUR: readonly Address[] = [
  0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 0xfffffffb, 0xfffffffc, 0xfffffffd, 0xfffffffe, 0xffffffff,
]
const SIX: readonly Address[] = [
  0n,
  1n,
  2n,
  3n,
  4n,
  5n,
  (1n << 64n) - 1n,
  1n << 64n,
  (1n << 64n) + 1n,
  (1n << 128n) - 2n,
  (1n << 128n) - 1n,
]
const ALL = [...FOUR, ...SIX]

const rangeAmong = (addresses: readonly Address[]): fc.Arbitrary<Range> =>
  fc
    .tuple(fc.nat(addresses.length - 1), fc.nat(addresses.length - 1))
    .map(([a, b]) => ({ from: addresses[Math.min(a, b)]!, to: addresses[Math.max(a, b)]! }))
const range = fc.oneof(rangeAmong(FOUR), rangeAmong(SIX))
const ranges = fc.array(range, { maxLength: 8 })
const set = ranges.map(rangeSet)

const holds = ({ from, to }: Range, address: Address): boolean =>
  typeof from === typeof address && from <= address && address <= to
const has = (some: readonly Range[], address: Address): boolean =>
  some.some((one) => holds(one, address))

/** In order, apart, and never touching: the one form a set has. */
function expectNormal(some: RangeSet): void {
  for (const [at, one] of some.entries()) {
    expect(typeof one.from).toBe(typeof one.to)
    expect(one.from <= one.to).toBe(true)
    const next = some[at + 1]
    if (next === undefined || typeof next.from !== typeof one.to) continue
    expect(
      typeof one.to === 'number'
        ? one.to + 1 < (next.from as number)
        : one.to + 1n < (next.from as bigint),
    ).toBe(true)
  }
  expect(some.map(({ from }) => typeof from)).toEqual(
    [...some.map(({ from }) => typeof from)].sort((a, b) =>
      a === b ? 0 : a === 'number' ? -1 : 1,
    ),
  )
}

test('the set of some ranges has their addresses, in its one form', () => {
  fc.assert(
    fc.property(ranges, (some) => {
      const made = rangeSet(some)
      expectNormal(made)
      for (const address of ALL)
        expect([address, has(made, address)]).toEqual([address, has(some, address)])
      expect(rangeSet(made)).toEqual(made)
    }),
  )
})

test('a difference and an intersection have the addresses they must, in the one form', () => {
  fc.assert(
    fc.property(set, set, (a, b) => {
      const [less, both] = [subtractRanges(a, b), intersectRanges(a, b)]
      expectNormal(less)
      expectNormal(both)
      for (const address of ALL) {
        expect([address, has(less, address)]).toEqual([
          address,
          has(a, address) && !has(b, address),
        ])
        expect([address, has(both, address)]).toEqual([address, has(a, address) && has(b, address)])
      }
      expect(both).toEqual(intersectRanges(b, a))
      expect(rangeSet([...less, ...both])).toEqual(a)
    }),
  )
})

test('what lies in a span is found with its lowest part first', () => {
  fc.assert(
    fc.property(set, range, (some, span) => {
      const parts = partsWithin(some, span)
      for (const address of ALL)
        expect([address, has(parts, address)]).toEqual([
          address,
          has(some, address) && holds(span, address),
        ])
      expect(firstPart(some, span)).toEqual(parts[0] ?? null)
    }),
  )
})

test('an address is found in a set, or the gap it lies in', () => {
  fc.assert(
    fc.property(set, fc.constantFrom(...ALL), (some, address) => {
      const inside = has(some, address)
      expect(rangesContain(some, address)).toBe(inside)
      expect(rangeIndex(some, address)).toBe(some.findIndex((one) => holds(one, address)))
      const next = some[firstFrom(some, address)]
      if (inside) expect(holds(next!, address)).toBe(true)
      const around = spanAround(some, address)
      expect(holds(around, address)).toBe(true)
      for (const other of ALL)
        if (holds(around, other)) expect([other, has(some, other)]).toEqual([other, inside])
      // It is the widest: one further on either side is another.
      const family = typeof address === 'number' ? 4 : 6
      const before = typeof around.from === 'number' ? around.from - 1 : around.from - 1n
      const after = typeof around.to === 'number' ? around.to + 1 : around.to + 1n
      if (around.from !== lowestOf(family)) expect(has(some, before)).toBe(!inside)
      if (around.to !== highestOf(family)) expect(has(some, after)).toBe(!inside)
    }),
  )
})

test('a range is the fewest prefixes, one behind the other', () => {
  fc.assert(
    fc.property(range, (one) => {
      const prefixes: Prefix[] = prefixesOfRange(one)
      expect(rangeSetOf(prefixes)).toEqual([one])
      expect(prefixes[0]!.address).toBe(one.from)
      expect(lastAddress(prefixes.at(-1)!)).toBe(one.to)
      for (const address of ALL)
        expect([
          address,
          prefixes.filter((prefix) => containsAddress(prefix, address)).length,
        ]).toEqual([address, holds(one, address) ? 1 : 0])
      // No two neighbours of one length could be one prefix.
      for (const [at, prefix] of prefixes.entries()) {
        const next = prefixes[at + 1]
        if (next?.length !== prefix.length) continue
        const wider = { address: prefix.address, length: prefix.length - 1 }
        expect(
          lastAddress(wider) === lastAddress(next) &&
            containsAddress(wider, prefix.address) &&
            isAligned(wider),
        ).toBe(false)
      }
    }),
  )
})

const isAligned = ({ address, length }: Prefix): boolean =>
  typeof address === 'number'
    ? address % 2 ** (32 - length) === 0
    : address % (1n << BigInt(128 - length)) === 0n
