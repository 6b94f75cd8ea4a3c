import fc from 'fast-check'
import {
  compareAddresses,
  containsAddress,
  formatAddress,
  formatPrefix,
  intersectRanges,
  isPublic,
  lastAddress,
  matchAll,
  longestMatch,
  parseAddress,
  parsePrefix,
  prefixesOfRange,
  prefixOf,
  prefixTable,
  rangeOf,
  rangeSet,
  rangesContain,
  spanAround,
  subtractRanges,
  type Address,
  type Prefix,
  type Range,
} from '../../src/index'

const v4 = fc.integer({ min: 0, max: 2 ** 32 - 1 })
const v6 = fc.bigInt({ min: 0n, max: (1n << 128n) - 1n })
const address: fc.Arbitrary<Address> = fc.oneof(v4, v6)

test('every address is read back from its text', () => {
  fc.assert(fc.property(address, (a) => parseAddress(formatAddress(a)) === a))
})

test.each([
  // RFC 5952, 4 and 5.
  ['2001:0db8::0001', '2001:db8::1'],
  ['2001:db8:0:0:0:0:2:1', '2001:db8::2:1'],
  ['2001:db8:0:1:1:1:1:1', '2001:db8:0:1:1:1:1:1'],
  ['2001:0:0:1:0:0:0:1', '2001:0:0:1::1'],
  ['2001:db8:0:0:1:0:0:1', '2001:db8::1:0:0:1'],
  ['::', '::'],
  ['::FFFF:192.0.2.1', '::ffff:192.0.2.1'],
  ['64:ff9b::192.0.2.33', '64:ff9b::c000:221'],
  ['1::', '1::'],
])('%s is written %s', (given, written) => {
  expect(formatAddress(parseAddress(given)!)).toBe(written)
})

test.each([
  '',
  '1.2.3',
  '1.2.3.4.5',
  '256.1.1.1',
  '01.2.3.4',
  '1.2.3.4/8',
  ':',
  ':::',
  '1::2::3',
  '1:2:3:4:5:6:7',
  '1:2:3:4:5:6:7:8:9',
  '12345::',
  'g::',
  '::1.2.3',
  '1:2:3:4:5:6:7::8:9',
  ' 1.2.3.4',
])('"%s" is no address', (text) => expect(parseAddress(text)).toBeNull())

test.each([
  ['10.1.2.3/8', { fault: 'host-bits', meant: '10.0.0.0/8' }],
  ['2001:db8::1/64', { fault: 'host-bits', meant: '2001:db8::/64' }],
  ['10.1.2.3', { fault: 'no-length', meant: '10.1.2.3/32' }],
  ['10.0.0.0/33', { fault: 'not-a-prefix' }],
  ['::/129', { fault: 'not-a-prefix' }],
  ['10.0.0.0/08', { fault: 'not-a-prefix' }],
])('%s is told apart', (text, fault) => expect(parsePrefix(text)).toEqual(fault))

test.each([
  ['10.255.255.255', false],
  ['11.0.0.0', true],
  ['172.15.255.255', true],
  ['172.31.255.255', false],
  ['100.64.0.1', false],
  ['100.128.0.0', true],
  ['169.254.1.1', false],
  ['0.1.2.3', false],
  ['223.255.255.255', true],
  ['224.0.0.1', false],
  ['255.255.255.255', false],
  ['203.0.113.1', true],
  ['2001:db8::1', true],
  ['fc00::1', false],
  ['fe80::1', false],
  ['3fff::1', true],
  ['4000::1', false],
])('%s public: %s', (text, expected) => expect(isPublic(parseAddress(text)!)).toBe(expected))

const prefix: fc.Arbitrary<Prefix> = fc
  .tuple(
    fc.constantFrom(0x0a000000, 0x0a800000, 0xc0000000),
    fc.integer({ min: 0, max: 4095 }),
    fc.integer({ min: 0, max: 32 }),
  )
  .map(([base, offset, length]) => {
    const a = base + offset * 4096
    return { address: length === 0 ? 0 : (a & (0xffffffff << (32 - length))) >>> 0, length }
  })

describe('the prefix table', () => {
  test('finds every covering prefix, longest first, as trying each one does', () => {
    fc.assert(
      fc.property(
        fc.array(prefix, { maxLength: 40 }),
        fc.array(fc.oneof(v4, fc.integer({ min: 0x0a000000, max: 0x0affffff })), { maxLength: 20 }),
        (prefixes, addresses) => {
          const table = prefixTable(prefixes.map((p) => ({ prefix: p, value: formatPrefix(p) })))
          for (const a of [...addresses, ...prefixes.flatMap((p) => [p.address, lastAddress(p)])]) {
            const expected = [
              ...new Set(prefixes.filter((p) => containsAddress(p, a)).map((p) => p.length)),
            ].sort((x, y) => y - x)
            const match = matchAll(table, a)
            expect(match.groups.map((group) => group.prefix.length)).toEqual(expected)
            expect(longestMatch(table, a).length).toBe(
              prefixes.filter((p) => containsAddress(p, a) && p.length === expected[0]).length,
            )
            expect(compareAddresses(match.from, a) <= 0 && compareAddresses(a, match.to) <= 0).toBe(
              true,
            )
            // The answer holds over its whole span.
            for (const end of [match.from, match.to]) {
              expect(prefixes.filter((p) => containsAddress(p, end)).length).toBe(
                prefixes.filter((p) => containsAddress(p, a)).length,
              )
            }
          }
        },
      ),
    )
  })

  test('is as exact where it is large enough to be searched by blocks', () => {
    const entries = Array.from({ length: 6000 }, (_, i) => ({
      prefix: { address: (i * 715_827 - ((i * 715_827) % 4096)) >>> 0, length: 20 },
      value: i,
    }))
    const table = prefixTable(entries)
    fc.assert(
      fc.property(v4, (a) => {
        const expected = entries.filter((e) => containsAddress(e.prefix, a)).map((e) => e.value)
        expect(longestMatch(table, a)).toEqual(expected)
      }),
      { numRuns: 300 },
    )
    for (const { prefix } of entries)
      expect(longestMatch(table, lastAddress(prefix)).length).toBeGreaterThan(0)
  })

  test('keeps the families apart', () => {
    const table = prefixTable([
      { prefix: prefixOf('0.0.0.0/0'), value: 4 },
      { prefix: prefixOf('::/0'), value: 6 },
    ])
    expect(longestMatch(table, parseAddress('0.0.0.0')!)).toEqual([4])
    expect(longestMatch(table, parseAddress('ffff::')!)).toEqual([6])
  })
})

const small = fc.integer({ min: 0, max: 60 })
const range: fc.Arbitrary<Range> = fc
  .tuple(small, small)
  .map(([a, b]) => ({ from: Math.min(a, b), to: Math.max(a, b) }))
const ranges = fc.array(range, { maxLength: 6 })
const all = Array.from({ length: 62 }, (_, i) => i)
const inside = (given: readonly Range[]) => (a: number) =>
  given.some((r) => r.from <= a && a <= r.to)

test('sets of ranges agree with sets of addresses', () => {
  fc.assert(
    fc.property(ranges, ranges, (a, b) => {
      const [x, y] = [rangeSet(a), rangeSet(b)]
      const [minus, both] = [subtractRanges(x, y), intersectRanges(x, y)]
      for (const one of all) {
        expect(rangesContain(x, one)).toBe(inside(a)(one))
        expect(rangesContain(minus, one)).toBe(inside(a)(one) && !inside(b)(one))
        expect(rangesContain(both, one)).toBe(inside(a)(one) && inside(b)(one))
      }
      for (const set of [x, minus, both])
        set.forEach(
          (r, i) =>
            i > 0 &&
            expect(Number(r.from)).toBeGreaterThan(Number(set[i - 1]!.to) + (set === both ? 0 : 1)),
        )
    }),
  )
})

test('the span around an address is as wide as can be', () => {
  fc.assert(
    fc.property(ranges, small, (given, one) => {
      const span = spanAround(rangeSet(given), one)
      for (const other of all.filter((a) => span.from <= a && a <= span.to))
        expect(inside(given)(other)).toBe(inside(given)(one))
    }),
  )
})

test('prefixes of a range cover it exactly, and are the fewest', () => {
  fc.assert(
    fc.property(range, (r) => {
      const prefixes = prefixesOfRange(r)
      expect(rangeSet(prefixes.map(rangeOf))).toEqual([r])
      // No two neighbours could be one.
      prefixes.forEach((p, i) => {
        const next = prefixes[i + 1]
        if (next && next.length === p.length)
          expect(
            containsAddress({ address: p.address, length: p.length - 1 }, next.address) &&
              Number(p.address) % 2 ** (33 - p.length) === 0,
          ).toBe(false)
      })
    }),
  )
})
