import { compareAddresses, parseAddress } from '../address/address'
import type { PortKind } from '../packet/known-ports'
import type { PacketJson } from '../packet/packet'
import type { PacketBox } from '../packet/packet-set'
import { PLACES_WITHOUT_PORTS } from '../packet/protocols'

/** Who may send to an opening. */
export interface OpenTo {
  /** As ranges, the first few. */
  readonly ranges: readonly string[]
  readonly moreRanges: number
  /** The part of the sender's addresses of that family, more than 0 and up to 1. */
  readonly share: number
}

/** One port, or span of ports, by which a host is reached from outside. */
export interface Opening {
  /** `internet` or `sites/ID`. */
  readonly from: string
  /** As `interfaces/ID`, and where it is. */
  readonly to: string
  readonly subnet: string
  readonly network: string
  /** The address outside that is sent to. */
  readonly address: string
  /** Null for every protocol. */
  readonly protocols: readonly (string | number)[] | null
  /** Null for protocols without ports. */
  readonly ports: { readonly from: number; readonly to: number } | null
  readonly kind: PortKind
  readonly openTo: OpenTo
  /** What packets pass; several where they come by different ways. */
  readonly ways: readonly (readonly string[])[]
  /**
   * Whether the host's answers arrive: to all of these packets, to some, as by the port they come
   * from, or to none, so that no connection comes about.
   */
  readonly answered: 'all' | 'some' | 'none'
  /** One such packet. */
  readonly packet: PacketJson
}

const KIND_ORDER: readonly PortKind[] = ['administration', 'database', 'other']

/** Administration before databases before the rest; then who is open to more of the world. */
export const gravestFirst = (a: Opening, b: Opening): number =>
  KIND_ORDER.indexOf(a.kind) - KIND_ORDER.indexOf(b.kind) || worldOf(b) - worldOf(a)

/** How much of the world an opening is for: the internet counts for more than any site. */
const worldOf = ({ from, openTo, answered }: Opening): number =>
  (from === 'internet' ? 2 : 0) + (answered === 'none' ? openTo.share / 1000 : openTo.share)

/** What of some openings is meant. */
export interface OpeningsMeant {
  readonly sort: 'port' | 'subnet' | 'address'
  /** A port that they have among theirs, or a part of a name, an address or a way. */
  readonly text: string
  /** Meant where nothing has the text: the port of a service whose name it is. */
  readonly port?: number | undefined
}

/** The openings that are meant, in order. */
export function openingsMeant(
  openings: readonly Opening[],
  { sort, text, port }: OpeningsMeant,
): Opening[] {
  const word = text.trim().toLowerCase()
  const named = word === '' ? [...openings] : openings.filter((one) => isMeant(one, word))
  const meant =
    named.length === 0 && port !== undefined
      ? openings.filter((one) => isMeant(one, String(port)))
      : named
  const groups = groupOrder(meant, sort)
  return meant
    .map((opening) => ({ opening, place: groups.get(groupOf(opening, sort))! }))
    .sort((a, b) => a.place - b.place || gravestFirst(a.opening, b.opening))
    .map(({ opening }) => opening)
}

function isMeant(opening: Opening, word: string): boolean {
  const { ports } = opening
  if (/^\d{1,5}$/.test(word))
    return ports !== null && ports.from <= Number(word) && Number(word) <= ports.to
  return [
    ...[opening.from, opening.to, opening.subnet, opening.network, opening.address],
    ...opening.openTo.ranges,
    ...opening.ways.flat(),
    groupOf(opening, 'port'),
  ].some((text) => text.toLowerCase().includes(word))
}

/** The text of the group that an opening stands in. */
export function groupOf(opening: Opening, sort: OpeningsMeant['sort']): string {
  if (sort === 'subnet') return opening.subnet
  return sort === 'address' ? opening.address : portsText(opening)
}

/** The destination ports of a box; null for protocols without any. */
export const portsOfBox = ({ protocol, dstPort }: PacketBox): Opening['ports'] =>
  Number(protocol.from) >= PLACES_WITHOUT_PORTS.from
    ? null
    : { from: Number(dstPort.from), to: Number(dstPort.to) }

/** Protocols and ports as they are read: `tcp 22`, `every protocol`, `icmp`. */
export function portsText({ protocols, ports }: Pick<Opening, 'protocols' | 'ports'>): string {
  const named = protocolsText(protocols)
  if (ports === null) return named
  const { from, to } = ports
  if (from === 0 && to === 65535)
    return protocols?.every((one) => one === 'tcp' || one === 'udp')
      ? `${named}, every port`
      : named
  return `${named} ${from === to ? from : `${from}-${to}`}`
}

const MOST_PROTOCOLS = 6
const NAMED_PROTOCOLS = ['tcp', 'udp', 'icmp', 'icmpv6']

/** Of many protocols, those that people speak of which are not among them. */
function protocolsText(protocols: Opening['protocols']): string {
  if (protocols === null) return 'every protocol'
  if (protocols.length <= MOST_PROTOCOLS) return protocols.join(', ')
  const without = NAMED_PROTOCOLS.filter((name) => !protocols.includes(name))
  return without.length === 0 ? 'many protocols' : `other protocols than ${without.join(', ')}`
}

/** Groups in the order of the gravest opening of each; addresses in their own order. */
function groupOrder(
  openings: readonly Opening[],
  sort: OpeningsMeant['sort'],
): ReadonlyMap<string, number> {
  const first = new Map<string, Opening>()
  for (const one of openings) {
    const group = groupOf(one, sort)
    const known = first.get(group)
    if (!known || gravestFirst(one, known) < 0) first.set(group, one)
  }
  const ordered = [...first].sort(([a, x], [b, y]) =>
    sort === 'address'
      ? compareAddresses(parseAddress(a)!, parseAddress(b)!)
      : gravestFirst(x, y) || a.localeCompare(b),
  )
  return new Map(ordered.map(([group], place) => [group, place]))
}
