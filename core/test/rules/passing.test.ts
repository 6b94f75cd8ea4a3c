import fc from 'fast-check'
import {
  allPackets,
  askRules,
  FIELDS,
  hasPorts,
  placeOfProtocol,
  protocolAt,
  setHas,
  type Model,
  type Packet,
  type PacketBox,
} from '../../src/index'
import { passing } from '../../src/rules/passing'
import { randomEstate } from '../random/estate'
import { random, type Random } from '../random/random'
import { modelOf } from '../trace/fixtures'
import { runs } from '../random/runs'

const EVERYTHING = [allPackets(4), allPackets(6)]

/** A packet at, or just outside, a corner of a box: where an error would be. */
function packetNear(box: PacketBox, r: Random): Packet {
  const next = (value: number | bigint, by: 1 | -1): number | bigint =>
    typeof value === 'number' ? value + by : value + BigInt(by)
  const inSpace = (value: number | bigint, all: PacketBox['src']): boolean =>
    value >= all.from && value <= all.to
  const all = allPackets(typeof box.src.from === 'number' ? 4 : 6)
  const [src, dst, place, srcPort, dstPort] = (
    ['src', 'dst', 'protocol', 'srcPort', 'dstPort'] as const
  ).map((field) => {
    const { from, to } = box[field]
    const corner = r.pick([from, to, next(from, -1), next(to, 1), from])
    return inSpace(corner, all[field]) ? corner : from
  }) as [number | bigint, number | bigint, number, number, number]
  const protocol = protocolAt(r.chance(20) ? placeOfProtocol(r.pick([1, 6, 17, 47, 58])) : place)
  const ports = hasPorts(protocol)
  return { src, dst, protocol, srcPort: ports ? srcPort : null, dstPort: ports ? dstPort : null }
}

const asked = (
  model: Model,
  direction: 'in' | 'out',
  place: { subnet: number; interface: number },
  crosses: boolean,
  packet: Packet,
): boolean =>
  askRules(model, { direction, place, packet, crosses, answers: false, flowAllowedByEstate: false })
    .passes

test('what rules let pass as sets is what they let pass when asked packet by packet', () => {
  const seen = { passed: 0, denied: 0 }
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 31 }), (seed) => {
      const model = modelOf(randomEstate(seed).estate)
      const r = random(seed)
      for (const one of model.interfaces) {
        if (one.subnet < 0) continue
        const place = { subnet: one.subnet, interface: one.index }
        for (const direction of ['in', 'out'] as const) {
          const crosses = r.chance(50)
          const passed = passing(model, { direction, place, crosses }, EVERYTHING)
          for (let i = 0; i < 12; i++) {
            const packet = packetNear(r.pick([...passed, ...EVERYTHING]), r)
            const said = asked(model, direction, place, crosses, packet)
            expect({
              seed,
              one: one.ref,
              direction,
              packet,
              passes: setHas(passed, packet),
            }).toEqual({ seed, one: one.ref, direction, packet, passes: said })
            seen[said ? 'passed' : 'denied']++
          }
        }
      }
    }),
    { numRuns: runs(10), seed: 7 },
  )
  expect(seen.passed).toBeGreaterThan(300)
  expect(seen.denied).toBeGreaterThan(300)
})

const world = (rules: object[], otherwise: object = {}) =>
  modelOf({
    networks: { n: { ranges: ['10.1.0.0/16'] } },
    subnets: { s: { network: 'n', ranges: ['10.1.1.0/24'] } },
    interfaces: { i: { subnet: 's', addresses: ['10.1.1.9'], ruleSets: ['r'] } },
    ruleSets: { r: { rules, otherwise } },
  })
const at = { direction: 'in', place: { subnet: 0, interface: 0 }, crosses: true } as const

test('what an earlier rule of an ordered set denies stays denied, and what an earlier one allows stays allowed', () => {
  const model = world([
    {
      order: 10,
      direction: 'in',
      action: 'allow',
      protocol: 'tcp',
      ports: [22],
      peers: ['192.0.2.0/24'],
    },
    { order: 20, direction: 'in', action: 'deny', protocol: 'tcp', ports: [22], peers: ['any'] },
    {
      order: 30,
      direction: 'in',
      action: 'allow',
      protocol: 'tcp',
      ports: ['20-30'],
      peers: ['any'],
    },
  ])
  const passed = passing(model, at, [allPackets(4)])
  const packet = (src: number, dstPort: number): Packet => ({
    src,
    dst: 0x0a010109,
    protocol: 6,
    srcPort: 50000,
    dstPort,
  })
  expect(setHas(passed, packet(0xc0000205, 22))).toBe(true)
  expect(setHas(passed, packet(0xcb007105, 22))).toBe(false)
  expect(setHas(passed, packet(0xcb007105, 23))).toBe(true)
  expect(setHas(passed, packet(0xcb007105, 31))).toBe(false)
})

test('no box of what passes is inside another', () => {
  const model = world([
    { direction: 'in', protocol: 'tcp', ports: [443], peers: ['any'] },
    { direction: 'in', protocol: 'any', peers: ['any'] },
  ])
  const passed = passing(model, at, [allPackets(4)])
  expect(passed).toHaveLength(1)
  for (const field of FIELDS) expect(passed[0]![field]).toEqual(allPackets(4)[field])
})
