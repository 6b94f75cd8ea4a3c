import fc from 'fast-check'
import {
  allPackets,
  FIELDS,
  intersectSets,
  isEmptySet,
  isSubset,
  joinBoxes,
  packetBoxJson,
  packetOf,
  placeOfProtocol,
  protocolAt,
  setHas,
  subtractSets,
  uniteSets,
  type Packet,
  type PacketBox,
  type PacketSet,
} from '../../src/index'

/** Boxes over so few values that random ones meet. */
const span = (most: number) =>
  fc
    .tuple(fc.integer({ min: 0, max: most }), fc.integer({ min: 0, max: most }))
    .map(([a, b]) => ({ from: Math.min(a, b), to: Math.max(a, b) }))
// The first five places are protocols with ports, so that every packet can have them.
const box: fc.Arbitrary<PacketBox> = fc.record({
  src: span(3),
  dst: span(3),
  protocol: span(4),
  srcPort: span(3),
  dstPort: span(3),
})
const packetSet: fc.Arbitrary<PacketSet> = fc
  .array(box, { maxLength: 4 })
  .map((boxes) => boxes.reduce<PacketSet>((set, one) => uniteSets(set, [one]), []))
const packet: fc.Arbitrary<Packet> = fc.record({
  src: fc.integer({ min: 0, max: 4 }),
  dst: fc.integer({ min: 0, max: 4 }),
  protocol: fc.integer({ min: 0, max: 4 }).map(protocolAt),
  srcPort: fc.integer({ min: 0, max: 4 }),
  dstPort: fc.integer({ min: 0, max: 4 }),
})
const RUNS = { numRuns: 2000, seed: 51 }

test('union, intersection and difference hold exactly the packets they should', () => {
  fc.assert(
    fc.property(packetSet, packetSet, packet, (a, b, one) => {
      expect(setHas(uniteSets(a, b), one)).toBe(setHas(a, one) || setHas(b, one))
      expect(setHas(intersectSets(a, b), one)).toBe(setHas(a, one) && setHas(b, one))
      expect(setHas(subtractSets(a, b), one)).toBe(setHas(a, one) && !setHas(b, one))
      expect(setHas(joinBoxes(a), one)).toBe(setHas(a, one))
    }),
    RUNS,
  )
})

test('emptiness, subsets and members', () => {
  fc.assert(
    fc.property(packetSet, packetSet, (a, b) => {
      expect(isEmptySet(subtractSets(a, a))).toBe(true)
      expect(isSubset(intersectSets(a, b), a)).toBe(true)
      expect(isSubset(a, uniteSets(a, b))).toBe(true)
      for (const one of a) expect(setHas(a, packetOf(one))).toBe(true)
      expect(joinBoxes(a).length).toBeLessThanOrEqual(a.length)
    }),
    RUNS,
  )
})

test('boxes of a set never share a packet', () => {
  fc.assert(
    fc.property(packetSet, packet, (set, one) => {
      const holding = set.filter((each) => setHas([each], one))
      expect(holding.length).toBeLessThanOrEqual(1)
    }),
    RUNS,
  )
})

test('every protocol has one place, and a box says which it holds', () => {
  expect(new Set(Array.from({ length: 256 }, (_, n) => placeOfProtocol(n))).size).toBe(256)
  for (let n = 0; n < 256; n++) expect(protocolAt(placeOfProtocol(n))).toBe(n)
  const tcp = { from: placeOfProtocol(6), to: placeOfProtocol(6) }
  const all = allPackets(4)
  expect(FIELDS.every((field) => all[field].from === 0)).toBe(true)
  expect(packetBoxJson({ ...all, protocol: tcp, dstPort: { from: 443, to: 443 } })).toEqual({
    src: '0.0.0.0-255.255.255.255',
    dst: '0.0.0.0-255.255.255.255',
    protocols: ['tcp'],
    srcPorts: '0-65535',
    dstPorts: '443',
  })
  expect(
    packetBoxJson({ ...all, protocol: { from: placeOfProtocol(1), to: placeOfProtocol(1) } })
      .dstPorts,
  ).toBeNull()
})
