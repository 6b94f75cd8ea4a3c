import { type RangeSet, type Range, spanAround, rangesContain } from '../address/ranges'
import type { Packet } from '../packet/packet'
import type { Field } from '../packet/packet-set'
import { placeOfProtocol, PLACES_WITHOUT_PORTS, PLACES_WITH_PORTS } from '../packet/protocols'

export type Direction = 'in' | 'out'
export type PortSpan = readonly [low: number, high: number]

/** The compiled condition of a rule. Null means any. */
export interface Condition {
  readonly direction: Direction
  readonly protocol: number | null
  readonly ports: readonly PortSpan[] | null
  readonly sourcePorts: readonly PortSpan[] | null
  /**
   * The far side, computed at first use, since protocol and port decide most rules. Null is any.
   */
  readonly peers: () => RangeSet | null
  readonly local: RangeSet | null
}

/** Written ports as spans; null for any port. */
export function portSpans(ports: readonly (number | string)[] | undefined): PortSpan[] | null {
  if (ports === undefined) return null
  return ports.map((port) => {
    if (typeof port === 'number') return [port, port]
    const [low, high] = port.split('-').map(Number)
    return [low!, high!]
  })
}

/** The field of a rule that does not match a packet. */
export type Mismatch = 'protocol' | 'port' | 'source port' | 'peer' | 'near side'

/**
 * Receives, for a field that was asked, the span around the packet's value that has the same
 * answer.
 */
export type NoteField = (field: Field, span: Range) => void

/**
 * Asks a rule of its own direction: the peer is the far address of the packet, the near one is on
 * the rule's side.
 */
export function mismatch(condition: Condition, packet: Packet, note?: NoteField): Mismatch | null {
  if (!protocolMatches(condition.protocol, packet, note)) return 'protocol'
  if (!portMatches(condition.ports, packet, 'dstPort', note)) return 'port'
  if (!portMatches(condition.sourcePorts, packet, 'srcPort', note)) return 'source port'
  const [near, peer] =
    condition.direction === 'out' ? (['src', 'dst'] as const) : (['dst', 'src'] as const)
  if (!addressMatches(condition.peers(), packet, peer, note)) return 'peer'
  return addressMatches(condition.local, packet, near, note) ? null : 'near side'
}

/** Whether a protocol, or any (null), is the packet's. */
export function protocolMatches(
  protocol: number | null,
  packet: Packet,
  note?: NoteField,
): boolean {
  if (protocol === null) return true
  if (note) {
    const [asked, own] = [placeOfProtocol(protocol), placeOfProtocol(packet.protocol)]
    note(
      'protocol',
      asked === own
        ? { from: own, to: own }
        : own < asked
          ? { from: 0, to: asked - 1 }
          : { from: asked + 1, to: 255 },
    )
  }
  return protocol === packet.protocol
}

/** Whether a port of the packet is in one of some spans; a packet without ports fits none. */
export function portMatches(
  spans: readonly PortSpan[] | null,
  packet: Packet,
  field: 'srcPort' | 'dstPort',
  note?: NoteField,
): boolean {
  if (spans === null) return true
  const port = packet[field]
  note?.('protocol', port === null ? PLACES_WITHOUT_PORTS : PLACES_WITH_PORTS)
  if (port === null) return false
  for (const [from, to] of spans) {
    const holds = port >= from && port <= to
    note?.(
      field,
      holds ? { from, to } : port < from ? { from: 0, to: from - 1 } : { from: to + 1, to: 65535 },
    )
    if (holds) return true
  }
  return false
}

/** Whether an address of the packet is in a set, or in any (null). */
export function addressMatches(
  set: RangeSet | null,
  packet: Packet,
  field: 'src' | 'dst',
  note?: NoteField,
): boolean {
  if (set === null) return true
  note?.(field, spanAround(set, packet[field]))
  return rangesContain(set, packet[field])
}
