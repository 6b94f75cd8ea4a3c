import fc from 'fast-check'
import { carve, lengthForParts, MOST_PARTS, prefixOf, spaceOf, usableOf } from '../../src/index'
import { prefixesOverlap, containsPrefix, formatPrefix } from '../../src/address/prefix'
import { rangeOf, rangeSet, rangeSetOf } from '../../src/address/ranges'
import { randomEstate } from '../random/estate'
import { modelOf } from '../trace/fixtures'

const estate = {
  networks: {
    shop: { ranges: ['10.1.0.0/16'] },
    depot: { ranges: ['10.1.128.0/20', '10.9.0.0/24'] },
  },
  sites: { yard: { ranges: ['10.9.0.128/25'] } },
  subnets: {
    front: { network: 'shop', ranges: ['10.1.0.0/24'] },
    back: { network: 'shop', ranges: ['10.1.2.0/23'] },
  },
  interfaces: {
    till: { subnet: 'front', addresses: ['10.1.0.9', '10.1.0.10'] },
    ledger: { subnet: 'back', addresses: ['10.1.2.9'], state: 'deleted' },
  },
}

test('a network’s range is carved by its subnets, and the rest is free', () => {
  const [shop] = spaceOf(modelOf(estate))
  const [range] = shop!.ranges
  expect(range).toMatchObject({
    prefix: '10.1.0.0/16',
    addresses: '65536',
    carvedShare: 3 / 256,
    carved: [
      { prefix: '10.1.0.0/24', subnet: 'front', taken: 2, usable: '251' },
      { prefix: '10.1.2.0/23', subnet: 'back', taken: 0, usable: '507' },
    ],
    moreFree: 0,
  })
  expect(range!.free.slice(0, 3)).toEqual(['10.1.1.0/24', '10.1.4.0/22', '10.1.8.0/21'])
})

test('what else has the same addresses is a collision, on both sides; one edit away it is not', () => {
  const collisions = (edit: object): unknown[] =>
    spaceOf(modelOf(estate, edit)).map((one) => one.collisions.map(({ other }) => other))
  expect(collisions({})).toEqual([['networks/depot'], ['networks/shop', 'sites/yard']])
  expect(collisions({ networks: { depot: { ranges: ['10.2.128.0/20'] } } })).toEqual([[], []])
})

test('free and carved ranges make up the whole, in random estates', () => {
  let ranges = 0
  for (let seed = 0; seed < 40; seed++) {
    for (const network of spaceOf(modelOf(randomEstate(seed).estate))) {
      for (const one of network.ranges) {
        if (one.moreFree > 0) continue
        const parts = [...one.carved.map(({ prefix }) => prefix), ...one.free].map(prefixOf)
        expect(rangeSet(rangeSetOf(parts))).toEqual([rangeOf(prefixOf(one.prefix))])
        for (const free of one.free)
          expect(
            one.carved.some(({ prefix }) => prefixesOverlap(prefixOf(prefix), prefixOf(free))),
          ).toBe(false)
        ranges++
      }
    }
  }
  expect(ranges).toBeGreaterThan(50)
})

test('the first four addresses and the last of an IPv4 subnet are its own', () => {
  expect(usableOf(prefixOf('10.1.0.0/24'))).toEqual({
    first: '10.1.0.4',
    last: '10.1.0.254',
    count: 251n,
  })
  expect(usableOf(prefixOf('10.1.0.0/29'))).toEqual({
    first: '10.1.0.4',
    last: '10.1.0.6',
    count: 3n,
  })
  expect(usableOf(prefixOf('10.1.0.0/30'))).toEqual({ first: null, last: null, count: 0n })
  expect(usableOf(prefixOf('2001:db8::/64'))).toMatchObject({
    first: '2001:db8::',
    count: 1n << 64n,
  })
})

test('equal parts lie side by side and fill the range', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 0xffffffff }),
      fc.integer({ min: 0, max: 32 }),
      fc.integer({ min: 0, max: 8 }),
      (address, length, more) => {
        const whole = {
          address: length === 0 ? 0 : Math.floor(address / 2 ** (32 - length)) * 2 ** (32 - length),
          length,
        }
        const of = Math.min(32, length + more)
        const { count, parts } = carve(whole, of)
        expect([parts.length, Number(count)]).toEqual([2 ** (of - length), 2 ** (of - length)])
        for (const { prefix } of parts) expect(containsPrefix(whole, prefixOf(prefix))).toBe(true)
        expect(rangeSet(rangeSetOf(parts.map(({ prefix }) => prefixOf(prefix))))).toEqual([
          rangeOf(whole),
        ])
      },
    ),
  )
})

test('very many parts are counted, not listed; what cannot be is refused', () => {
  const { count, parts } = carve(prefixOf('2001:db8::/32'), 64)
  expect([count, parts.length, parts[1]!.prefix]).toEqual([
    1n << 32n,
    MOST_PARTS,
    '2001:db8:0:1::/64',
  ])
  expect(carve(prefixOf('255.255.255.254/31'), 32).parts.map(({ prefix }) => prefix)).toEqual([
    '255.255.255.254/32',
    '255.255.255.255/32',
  ])
  expect(() => carve(prefixOf('10.0.0.0/8'), 7)).toThrow(
    'a /8 is carved into parts of /8 to /32, not /7',
  )
  expect(() => carve(prefixOf('10.0.0.0/8'), 33)).toThrow(RangeError)
  expect([1, 2, 3, 4, 5].map((parts) => lengthForParts(prefixOf('10.0.0.0/8'), parts))).toEqual([
    8, 9, 10, 10, 11,
  ])
  expect(formatPrefix(prefixOf('10.0.0.0/8'))).toBe('10.0.0.0/8')
})
