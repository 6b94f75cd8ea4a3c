import fc from 'fast-check'
import {
  allPackets,
  FIELDS,
  protocolAt,
  hasPorts,
  walkFlow,
  type Address,
  type End,
  type Flow,
  type Model,
  type Packet,
  type PacketBox,
} from '../../src/index'
import { randomEstate } from '../random/estate'
import { random, type Random } from '../random/random'
import { modelOf } from '../trace/fixtures'
import { runs } from '../random/runs'

/** Where packets can begin in an estate: at every interface and in every subnet, and outside. */
function endsOf(model: Model): { end: End; sources: Address[] }[] {
  const inside = model.interfaces.flatMap((one) =>
    one.subnet < 0 || !model.index.interfaces.has(one.id)
      ? []
      : [
          {
            end: {
              in: 'subnet' as const,
              place: { subnet: one.subnet, interface: one.index },
              ref: one.ref,
            },
            sources: [...one.addresses],
          },
        ],
  )
  const outside = [
    { end: { in: 'outside' as const, ref: 'internet' }, sources: [0xc6336401, 0x08080808] },
  ]
  const sites = [...model.index.sites.keys()].map((id) => ({
    end: { in: 'outside' as const, ref: `sites/${id}` },
    sources: [0xac140005],
  }))
  return [...inside, ...outside, ...sites]
}

function destinationsOf(model: Model): Address[] {
  return [
    ...model.interfaces.flatMap((one) => [
      ...one.addresses,
      ...(one.publicAddress === null ? [] : [one.publicAddress]),
    ]),
    ...model.subnets.flatMap((subnet) =>
      subnet.ranges.map((range) =>
        typeof range.address === 'number' ? range.address + 9 : range.address + 9n,
      ),
    ),
    0xc6336450,
    0x08080404,
    0xac140105,
    0x0a630001,
  ]
}

const said = ({ branches }: Flow): object =>
  branches.map(({ verdict, cause, way, wayBack, leavesBy, seenAs }) => ({
    verdict,
    cause: cause?.code,
    object: cause?.object,
    inner: cause?.inner,
    way,
    wayBack,
    leavesBy,
    seenAs,
  }))

/** A packet of a box: a corner, or somewhere inside. */
function packetIn(box: PacketBox, r: Random): Packet {
  const choose = (field: keyof PacketBox): Address => {
    const { from, to } = box[field]
    const where = r.number(3)
    if (where === 0 || from === to) return from
    if (where === 1) return to
    return typeof from === 'number'
      ? from + r.number(Number(to) - from + 1)
      : from + BigInt(r.number(1000)) * (((to as bigint) - from) / 1000n)
  }
  const [src, dst, place, srcPort, dstPort] = (
    ['src', 'dst', 'protocol', 'srcPort', 'dstPort'] as const
  ).map(choose) as [Address, Address, number, number, number]
  const protocol = protocolAt(place)
  const ports = hasPorts(protocol)
  return { src, dst, protocol, srcPort: ports ? srcPort : null, dstPort: ports ? dstPort : null }
}

test('every packet of the box round a walk fares as the packet that was walked', () => {
  let sampled = 0
  let wide = 0
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 31 }), (seed) => {
      const model = modelOf(randomEstate(seed).estate)
      const r = random(seed)
      const ends = endsOf(model)
      const destinations = destinationsOf(model)
      for (let i = 0; i < 60; i++) {
        const { end, sources } = r.pick(ends)
        const dst = r.pick(destinations)
        const src = sources.find((a) => typeof a === typeof dst)
        if (src === undefined) continue
        const protocol = r.pick([6, 6, 17, 1, 47])
        const ports = hasPorts(protocol)
        const packet = {
          src,
          dst,
          protocol,
          srcPort: ports ? r.pick([50000, 1024, 22]) : null,
          dstPort: ports ? r.pick([443, 22, 53, 8443, 5432]) : null,
        }
        const flow = walkFlow(model, end, packet, allPackets(typeof dst === 'number' ? 4 : 6), true)
        if (FIELDS.every((field) => flow.box[field].from !== flow.box[field].to)) wide++
        for (let k = 0; k < 4; k++) {
          const other = packetIn(flow.box, r)
          const again = walkFlow(
            model,
            end,
            other,
            allPackets(typeof dst === 'number' ? 4 : 6),
            true,
          )
          expect({ seed, packet, other, said: said(again) }).toEqual({
            seed,
            packet,
            other,
            said: said(flow),
          })
          sampled++
        }
      }
    }),
    { numRuns: runs(25), seed: 21 },
  )
  expect(sampled).toBeGreaterThan(5000)
  expect(wide).toBeGreaterThan(100)
})
