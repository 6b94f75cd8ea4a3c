import {
  formatAddress,
  highestOf,
  lowestOf,
  nextAddress,
  previousAddress,
  type Address,
  type Family,
} from '../address/address'
import type { Range } from '../address/ranges'
import { hasPorts, protocolName, type Packet } from './packet'
import { placeOfProtocol, PLACES_WITHOUT_PORTS, protocolAt } from './protocols'

/** The header fields of a packet, in the order in which boxes are cut. */
export const FIELDS = ['dst', 'src', 'protocol', 'dstPort', 'srcPort'] as const
export type Field = (typeof FIELDS)[number]

/**
 * A box of packets: a span in every header field. Protocols are spans of places (see
 * `protocols.ts`); a protocol without ports fills both ports, which then say nothing.
 */
export type PacketBox = { readonly [F in Field]: Range }

/**
 * Packets as boxes of which no two share a packet. Which packets are meant is exact; how they are
 * cut is not unique.
 */
export type PacketSet = readonly PacketBox[]

const PORTS: Range = { from: 0, to: 65535 }

/**
 * A box with some of its spans changed. Boxes are made by the million: all are of one shape, and
 * copied field by field, which is several times faster than spreading them.
 */
export const boxWith = (box: PacketBox, changes: Partial<PacketBox>): PacketBox =>
  Object.assign(
    {
      dst: box.dst,
      src: box.src,
      protocol: box.protocol,
      dstPort: box.dstPort,
      srcPort: box.srcPort,
    },
    changes,
  )

const EVERY_PACKET = { 4: everyPacket(4), 6: everyPacket(6) } as const

function everyPacket(family: Family): PacketBox {
  const addresses = { from: lowestOf(family), to: highestOf(family) }
  return {
    dst: addresses,
    src: addresses,
    protocol: { from: 0, to: 255 },
    dstPort: PORTS,
    srcPort: PORTS,
  }
}

/** Every packet of a family. */
export const allPackets = (family: Family): PacketBox => EVERY_PACKET[family]

/** The box of one packet; of a protocol without ports, every port. */
export function boxOfPacket({ src, dst, protocol, srcPort, dstPort }: Packet): PacketBox {
  const place = placeOfProtocol(protocol)
  const one = (value: Address): Range => ({ from: value, to: value })
  return {
    dst: one(dst),
    src: one(src),
    protocol: one(place),
    dstPort: dstPort === null ? PORTS : one(dstPort),
    srcPort: srcPort === null ? PORTS : one(srcPort),
  }
}

/** The part two spans share, or null. They must be of one family. */
export function meet(a: Range, b: Range): Range | null {
  if (typeof a.from !== typeof b.from) return null
  const from = a.from > b.from ? a.from : b.from
  const to = a.to < b.to ? a.to : b.to
  return from <= to ? { from, to } : null
}

/** The part of two spans that meet. */
const shared = (a: Range, b: Range): Range =>
  holds(a, b)
    ? b
    : holds(b, a)
      ? a
      : a.from > b.from
        ? { from: a.from, to: b.to }
        : { from: b.from, to: a.to }

const holds = (outer: Range, inner: Range): boolean =>
  outer.from <= inner.from && inner.to <= outer.to

const apart = (a: Range, b: Range): boolean => a.to < b.from || b.to < a.from

/** Whether two boxes share a packet; what tells most rules apart is asked first. */
export const boxesMeet = (a: PacketBox, b: PacketBox): boolean =>
  !apart(a.dstPort, b.dstPort) &&
  !apart(a.protocol, b.protocol) &&
  typeof a.src.from === typeof b.src.from &&
  !apart(a.src, b.src) &&
  !apart(a.dst, b.dst) &&
  !apart(a.srcPort, b.srcPort)

/** The packets two boxes share, or null. */
export function meetBoxes(a: PacketBox, b: PacketBox): PacketBox | null {
  if (!boxesMeet(a, b)) return null
  return {
    dst: shared(a.dst, b.dst),
    src: shared(a.src, b.src),
    protocol: shared(a.protocol, b.protocol),
    dstPort: shared(a.dstPort, b.dstPort),
    srcPort: shared(a.srcPort, b.srcPort),
  }
}

/** Whether every packet of a box is in another. */
export const boxHolds = (outer: PacketBox, inner: PacketBox): boolean =>
  typeof outer.src.from === typeof inner.src.from &&
  holds(outer.dst, inner.dst) &&
  holds(outer.src, inner.src) &&
  holds(outer.protocol, inner.protocol) &&
  holds(outer.dstPort, inner.dstPort) &&
  holds(outer.srcPort, inner.srcPort)

/**
 * The packets of `box` that are not in `minus`, as at most ten boxes: each field in turn gives what
 * lies below and above.
 */
export function subtractBox(box: PacketBox, minus: PacketBox): PacketBox[] {
  if (!boxesMeet(box, minus)) return [box]
  const out: PacketBox[] = []
  let rest = box
  for (const field of FIELDS) {
    const [have, hole] = [rest[field], minus[field]]
    const below = have.from < hole.from
    const above = have.to > hole.to
    if (!below && !above) continue
    if (below)
      out.push(boxWith(rest, { [field]: { from: have.from, to: previousAddress(hole.from)! } }))
    if (above) out.push(boxWith(rest, { [field]: { from: nextAddress(hole.to)!, to: have.to } }))
    rest = boxWith(rest, { [field]: shared(have, hole) })
  }
  return out
}

/** Whether a set of packets has none. */
export const isEmptySet = (set: PacketSet): boolean => set.length === 0

/** The packets that are in both sets. */
export function intersectSets(a: PacketSet, b: PacketSet): PacketSet {
  return a.flatMap((one) => b.flatMap((other) => meetBoxes(one, other) ?? []))
}

/** The packets of `set` that are not in `minus`. */
export function subtractSets(set: PacketSet, minus: PacketSet): PacketSet {
  return minus.reduce<PacketSet>((rest, hole) => rest.flatMap((box) => subtractBox(box, hole)), set)
}

/** The packets of either set. */
export const uniteSets = (a: PacketSet, b: PacketSet): PacketSet =>
  joinBoxes([...a, ...subtractSets(b, a)])

/** The packets of some boxes, which may share packets, as boxes that share none. */
export const disjoint = (boxes: readonly PacketBox[]): PacketSet =>
  boxes.reduce<PacketSet>(
    (apart, box) => (apart.length === 0 ? [box] : [...apart, ...subtractSets([box], apart)]),
    [],
  )

/** Whether every packet of `set` is in `within`. */
export const isSubset = (set: PacketSet, within: PacketSet): boolean =>
  isEmptySet(subtractSets(set, within))

/** Whether a packet is in the set. */
export const setHas = (set: PacketSet, packet: Packet): boolean => {
  const one = boxOfPacket(packet)
  return set.some((box) => FIELDS.every((field) => meet(box[field], one[field]) !== null))
}

/**
 * One packet of a box: the lowest in every field, but for ports the likeliest that it holds, since
 * a person reads it: the usual client port, and a well-known one where it is free to choose.
 */
export function packetOf(
  box: PacketBox,
  likely: { srcPort: number; dstPort: number } = { srcPort: 50000, dstPort: 443 },
): Packet {
  const protocol = protocolAt(Number(box.protocol.from))
  const choose = (span: Range, wanted: number): number =>
    span.from <= wanted && wanted <= span.to ? wanted : Number(span.from)
  const ports = hasPorts(protocol)
  return {
    src: box.src.from,
    dst: box.dst.from,
    protocol,
    srcPort: ports ? choose(box.srcPort, likely.srcPort) : null,
    dstPort: ports ? choose(box.dstPort, likely.dstPort) : null,
  }
}

/** The same packets in fewer boxes: two that differ in one field, and touch there, become one. */
export function joinBoxes(boxes: PacketSet): PacketSet {
  let out = [...boxes]
  for (let joined = true; joined;) {
    joined = false
    for (const field of FIELDS) {
      const groups = new Map<string, PacketBox[]>()
      for (const box of out) {
        const key = FIELDS.map((f) => (f === field ? '' : `${box[f].from}-${box[f].to}`)).join(' ')
        const group = groups.get(key)
        if (group) group.push(box)
        else groups.set(key, [box])
      }
      if (groups.size === out.length) continue
      const next: PacketBox[] = []
      for (const group of groups.values()) {
        group.sort((a, b) => (a[field].from < b[field].from ? -1 : 1))
        for (const box of group) {
          const last = next.at(-1)
          const touches =
            last && group.includes(last) && nextAddress(last[field].to) === box[field].from
          if (touches) {
            next[next.length - 1] = boxWith(last, {
              [field]: { from: last[field].from, to: box[field].to },
            })
            group[group.indexOf(box)] = next.at(-1)!
            joined = true
          } else next.push(box)
        }
      }
      out = next
    }
  }
  return out
}

/** The protocols of a span as names or numbers; null for all. */
export function protocolsOf(span: Range): readonly (string | number)[] | null {
  if (span.from === 0 && span.to === 255) return null
  const out: (string | number)[] = []
  for (let place = Number(span.from); place <= Number(span.to); place++)
    out.push(protocolName(protocolAt(place)))
  return out
}

export interface PacketBoxJson {
  readonly src: string
  readonly dst: string
  /** Null for every protocol. */
  readonly protocols: readonly (string | number)[] | null
  /** As `443` or `1024-65535`; null where the protocol has none. */
  readonly srcPorts: string | null
  readonly dstPorts: string | null
}

const spanText = (span: Range, write: (value: Address) => string): string =>
  span.from === span.to ? write(span.from) : `${write(span.from)}-${write(span.to)}`

/** A box of packets as people and programs read it. */
export function packetBoxJson(box: PacketBox): PacketBoxJson {
  const ports = (span: Range): string | null =>
    box.protocol.from >= PLACES_WITHOUT_PORTS.from ? null : spanText(span, String)
  return {
    src: spanText(box.src, formatAddress),
    dst: spanText(box.dst, formatAddress),
    protocols: protocolsOf(box.protocol),
    srcPorts: ports(box.srcPort),
    dstPorts: ports(box.dstPort),
  }
}
