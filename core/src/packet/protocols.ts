import { hasPorts, ICMP, ICMPV6, TCP, UDP } from './packet'

/**
 * Protocols in an order in which those that rules tell apart lie together: with ports first, then
 * those with names, then the rest by number. A span of these places is a set of protocols that is
 * cut into few parts, however rules speak of them.
 */
const WITH_PORTS = [TCP, UDP, ...numbers().filter((n) => hasPorts(n) && n !== TCP && n !== UDP)]
const ORDERED = [
  ...WITH_PORTS,
  ICMP,
  ICMPV6,
  ...numbers().filter((n) => !hasPorts(n) && n !== ICMP && n !== ICMPV6),
]
const PLACES = ORDERED.reduce<Uint8Array>((places, protocol, place) => {
  places[protocol] = place
  return places
}, new Uint8Array(256))

function numbers(): number[] {
  return Array.from({ length: 256 }, (_, n) => n)
}

/** The place of a protocol number in that order. */
export const placeOfProtocol = (protocol: number): number => PLACES[protocol]!

/** The protocol number at a place. */
export const protocolAt = (place: number): number => ORDERED[place]!

/** The places of all protocols that have ports, and of all that have none. */
export const PLACES_WITH_PORTS = { from: 0, to: WITH_PORTS.length - 1 } as const
export const PLACES_WITHOUT_PORTS = { from: WITH_PORTS.length, to: 255 } as const
