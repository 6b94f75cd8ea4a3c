import { familyOf, formatAddress, type Address, type Family } from '../address/address'

/**
 * The header fields that forwarding and rules look at. Ports are null for protocols that have none.
 */
export interface Packet {
  readonly src: Address
  readonly dst: Address
  /** The IP protocol number. */
  readonly protocol: number
  readonly srcPort: number | null
  readonly dstPort: number | null
}

/** The client's port where nothing else is said (RFC 6056: from the ephemeral range). */
export const DEFAULT_SOURCE_PORT = 50000

export const TCP = 6
export const UDP = 17
export const ICMP = 1
export const ICMPV6 = 58

const NAMES: Record<string, number> = { tcp: TCP, udp: UDP, icmp: ICMP, icmpv6: ICMPV6 }
const WITH_PORTS = new Set([TCP, UDP, 33, 132, 136])

/**
 * The protocol number of a name or number as the format and questions write it; null if it is
 * neither.
 */
export function protocolNumber(protocol: string | number): number | null {
  if (typeof protocol === 'number')
    return Number.isInteger(protocol) && protocol >= 0 && protocol <= 255 ? protocol : null
  if (/^\d{1,3}$/.test(protocol)) return protocolNumber(Number(protocol))
  return NAMES[protocol] ?? null
}

/** The name of a protocol number, or the number where it has no name here. */
export const protocolName = (protocol: number): string | number =>
  Object.keys(NAMES).find((name) => NAMES[name] === protocol) ?? protocol

/** Whether a protocol has ports. */
export const hasPorts = (protocol: number): boolean => WITH_PORTS.has(protocol)

/** The family of a packet. */
export const packetFamily = (packet: Packet): Family => familyOf(packet.dst)

/** The answer to a packet: ends and ports swapped. */
export const answerTo = (packet: Packet): Packet => ({
  src: packet.dst,
  dst: packet.src,
  protocol: packet.protocol,
  srcPort: packet.dstPort,
  dstPort: packet.srcPort,
})

export interface PacketJson {
  readonly src: string
  readonly dst: string
  readonly protocol: string | number
  readonly srcPort: number | null
  readonly dstPort: number | null
}

/** A packet with its addresses and protocol as text. */
export const packetJson = (packet: Packet): PacketJson => ({
  src: formatAddress(packet.src),
  dst: formatAddress(packet.dst),
  protocol: protocolName(packet.protocol),
  srcPort: packet.srcPort,
  dstPort: packet.dstPort,
})
