import fc from 'fast-check'
import { AddressMap, AddressSet, sortedOnce } from '../../src/address/address-map'
import { compareAddresses, type Address } from '../../src/address/address'

/** Addresses as networks have them: few low halves, many high ones, and IPv4 beside them. */
const address: fc.Arbitrary<Address> = fc.oneof(
  fc.integer({ min: 0, max: 12 }),
  fc
    .tuple(fc.bigInt({ min: 0n, max: 5n }), fc.bigInt({ min: 0n, max: 3n }))
    .map(([high, low]) => (high << 64n) | low),
  fc.bigInt({ min: 0n, max: (1n << 128n) - 1n }),
)
const step = fc.tuple(fc.constantFrom('set', 'delete'), address, fc.integer())

test('a map from addresses does what a plain one does, in the same order', () => {
  fc.assert(
    fc.property(fc.array(step), address, (steps, asked) => {
      const [plain, map] = [new Map<Address, number>(), new AddressMap<number>()]
      for (const [what, key, value] of steps) {
        if (what === 'set') for (const one of [plain, map]) one.set(key, value)
        else expect(map.delete(key)).toBe(plain.delete(key))
      }
      expect([...map]).toEqual([...plain])
      expect([...map.keys()]).toEqual([...plain.keys()])
      expect([...map.values()]).toEqual([...plain.values()])
      expect([map.size, map.get(asked), map.has(asked)]).toEqual([
        plain.size,
        plain.get(asked),
        plain.has(asked),
      ])
      const each: [Address, number][] = []
      map.forEach((value, key) => each.push([key, value]))
      expect(each).toEqual([...plain])
      expect([...new AddressMap(plain)]).toEqual([...plain])
    }),
  )
})

test('a set of addresses does what a plain one does', () => {
  fc.assert(
    fc.property(fc.array(address), fc.array(address), address, (some, gone, asked) => {
      const [plain, set] = [new Set(some), new AddressSet(some)]
      for (const one of gone) expect(set.delete(one)).toBe(plain.delete(one))
      expect([...set]).toEqual([...plain])
      expect([...set.entries()]).toEqual([...plain.entries()])
      expect([...set.keys()]).toEqual([...plain.keys()])
      expect([set.size, set.has(asked)]).toEqual([plain.size, plain.has(asked)])
      const each: Address[] = []
      set.forEach((one) => each.push(one))
      expect(each).toEqual([...plain])
    }),
  )
})

test('addresses are sorted, each once', () => {
  fc.assert(
    fc.property(fc.array(address), (some) =>
      expect(sortedOnce(some)).toEqual([...new Set(some)].sort(compareAddresses)),
    ),
  )
})
