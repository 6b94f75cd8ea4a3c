/**
 * Packets that differ, told as few rows. A row is a product: every source, to every destination,
 * over every protocol, to and from every port. Rows that differ in one field alone are joined by
 * uniting that field, until no two can be; rows never share a packet.
 *
 * Example: 10.1.0.5 to 10.2.0.5 and 10.1.0.6 to 10.2.0.5, both TCP 443, are one row from both.
 */
import { familyOf } from '../address/address'
import { rangeSet, type Range, type RangeSet } from '../address/ranges'
import { packetOf, type PacketBox } from '../packet/packet-set'
import type { Packet } from '../packet/packet'
import { PLACES_WITHOUT_PORTS, PLACES_WITH_PORTS } from '../packet/protocols'
import type { CauseCode } from '../walk/causes'
import type { DifferenceKind } from './fate'

/** Ranges of addresses by the name of the end they belong to. */
export type NamedRanges = ReadonlyMap<string, RangeSet>

/** Firewalls on the way there and back. */
export interface PassedFirewalls {
  readonly there: readonly string[]
  readonly back: readonly string[]
}

/** What a row says besides its packets; rows are joined where all of it is the same. */
export interface RowNote {
  readonly kind: DifferenceKind
  readonly partly: boolean
  /** One of its ends is down after the change, and was not before. */
  readonly failed: boolean
  /** For `passedBy` and `inspected`: the firewalls on every branch. */
  readonly firewalls: { readonly before: PassedFirewalls; readonly after: PassedFirewalls } | null
  /** For a trial: why packets are lost after the change, and which firewalls they then pass. */
  readonly trial: {
    readonly lost: { readonly code: CauseCode; readonly object: string } | null
    readonly after: PassedFirewalls
  } | null
  /** For `elsewhere`: the objects packets end at. */
  readonly hosts: { readonly before: readonly string[]; readonly after: readonly string[] } | null
}

/** A product of packets that differ alike. Protocols are places (`packet/protocols.ts`). */
export interface Row extends RowNote {
  readonly from: NamedRanges
  readonly to: NamedRanges
  readonly protocols: RangeSet
  readonly dstPorts: RangeSet
  readonly srcPorts: RangeSet
  /** One of its packets. */
  readonly packet: Packet
}

/** The rows of a box; where it holds protocols with ports and without, these are two. */
export function rowsOfBox(
  { src, dst, protocol, dstPort, srcPort }: PacketBox,
  from: string,
  to: readonly string[],
  note: RowNote,
): Row[] {
  const ends = {
    ...note,
    from: new Map([[from, [src]]]),
    to: new Map([[to.join(' '), [dst]]]),
  }
  const whole = isAllPorts(dstPort) && isAllPorts(srcPort)
  const parts = whole
    ? [protocol]
    : [PLACES_WITH_PORTS, PLACES_WITHOUT_PORTS].flatMap((span) => meetPlaces(protocol, span))
  return parts.map((part): Row => {
    const [to, from] =
      part.from > PLACES_WITH_PORTS.to ? [ALL_PORTS, ALL_PORTS] : [dstPort, srcPort]
    return {
      ...ends,
      protocols: [part],
      dstPorts: [to],
      srcPorts: [from],
      packet: packetOf({ src, dst, protocol: part, dstPort: to, srcPort: from }),
    }
  })
}

const ALL_PORTS: Range = { from: 0, to: 65535 }
const isAllPorts = ({ from, to }: Range): boolean => from === 0 && to === 65535

function meetPlaces(a: Range, b: Range): Range[] {
  const from = a.from > b.from ? a.from : b.from
  const to = a.to < b.to ? a.to : b.to
  return from <= to ? [{ from, to }] : []
}

/** The fields that rows are joined by, in the order in which joining is tried. */
const FIELDS = ['srcPorts', 'dstPorts', 'to', 'from', 'protocols'] as const
type RowField = (typeof FIELDS)[number]

/**
 * The same packets in fewer rows. Costs a text of every row for each field and round; a round that
 * joins nothing is the last.
 */
export function joinRows(rows: readonly Row[]): Row[] {
  let out = [...rows]
  for (let joined = true; joined;) {
    joined = false
    for (const field of FIELDS) {
      const groups = new Map<string, Row[]>()
      for (const row of out) {
        const key = keyBeside(row, field)
        const group = groups.get(key)
        if (group) group.push(row)
        else groups.set(key, [row])
      }
      if (groups.size === out.length) continue
      joined = true
      out = [...groups.values()].map((group) => united(group, field))
    }
  }
  return out
}

/**
 * All that a row says but one field, as text; the family too, since ranges of one field share it.
 */
function keyBeside(row: Row, field: RowField): string {
  const { kind, partly, failed, firewalls, hosts, trial } = row
  const family = familyOf(row.packet.src)
  // Ports say nothing of protocols without them, so protocols of both kinds join only where all
  // ports are meant.
  const ported = field === 'protocols' && !isWhole(row) ? 'ported' : ''
  return [
    `${kind} ${partly} ${failed} ${family} ${ported} ${JSON.stringify([firewalls, hosts, trial])}`,
    ...FIELDS.map((one) => (one === field ? '' : textOf(row[one]))),
  ].join('|')
}

const isWhole = ({ dstPorts, srcPorts }: Row): boolean =>
  isAllPorts(dstPorts[0]!) && isAllPorts(srcPorts[0]!)

const texts = new WeakMap<object, string>()

function textOf(field: Row[RowField]): string {
  let known = texts.get(field)
  if (known === undefined) {
    known =
      field instanceof Map
        ? [...(field as NamedRanges)]
            .map(([name, set]) => `${name} ${rangesText(set)}`)
            .sort()
            .join(';')
        : rangesText(field as RangeSet)
    texts.set(field, known)
  }
  return known
}

const rangesText = (set: RangeSet): string => set.map(({ from, to }) => `${from}-${to}`).join()

function united(group: readonly Row[], field: RowField): Row {
  const [first] = group
  if (group.length === 1) return first!
  const packet = group.map((row) => row.packet).reduce(nicest)
  if (field === 'from' || field === 'to') {
    const names = new Map<string, Range[]>()
    for (const row of group)
      for (const [name, set] of row[field]) {
        const list = names.get(name)
        if (list) list.push(...set)
        else names.set(name, [...set])
      }
    const ranges = new Map([...names].map(([name, list]) => [name, rangeSet(list)] as const))
    return { ...first!, packet, [field]: ranges }
  }
  return { ...first!, packet, [field]: rangeSet(group.flatMap((row) => row[field])) }
}

/** The packet a person would rather read: TCP to port 443 first, then the lowest addresses. */
function nicest(a: Packet, b: Packet): Packet {
  const rank = ({ protocol, dstPort }: Packet): number =>
    (protocol === 6 ? 0 : 2) + (dstPort === 443 ? 0 : 1)
  return rank(b) < rank(a) ? b : a
}
