import type { AppliesTo, Estate, Peer, Rule } from '../../src/format/estate'
import { coveredBy, prefixBits, covers, type Bits } from './bits'
import { hasAddress, isInternet, networkOf, regionOf, tagsAt, there, up } from './world'

export interface Packet {
  src: Bits
  dst: Bits
  protocol: number
  sport: number | null
  dport: number | null
}

/** Where rules are asked: an interface or frontend in a subnet, or nobody there. */
export interface Spot {
  readonly subnet: string
  readonly iface: string | null
  readonly frontend?: string
}

export const sameSpot = (a: Spot, b: Spot): boolean =>
  a.subnet === b.subnet && a.iface === b.iface && a.frontend === b.frontend

type Direction = 'in' | 'out'
type Denied = { readonly code: string; readonly object: string }
export interface Asked {
  readonly denied: Denied | null
  /** An estate rule allowed it finally. */
  readonly final: boolean
}

/** What asking needs to know besides the packet. */
export interface Manner {
  readonly crosses: boolean
  /** The answer to a flow that passed here: stateful rules know it. */
  readonly known: boolean
  /** An estate rule let that flow through finally, here. */
  readonly finalBefore: boolean
}

const NUMBERS: Record<string, number> = { icmp: 1, tcp: 6, udp: 17, icmpv6: 58 }
const protocolMatches = (wanted: string | number | undefined, packet: Packet): boolean =>
  wanted === undefined ||
  wanted === 'any' ||
  (typeof wanted === 'number' ? wanted : NUMBERS[wanted]) === packet.protocol

function portMatches(
  wanted: readonly (string | number)[] | undefined,
  port: number | null,
): boolean {
  if (wanted === undefined) return true
  if (port === null) return false
  return wanted.some((one) => {
    const [low, high] = String(one).split('-').map(Number)
    return port >= low! && port <= (high ?? low!)
  })
}

function peerMatches(estate: Estate, peer: Peer, address: Bits): boolean {
  if (peer === 'any') return true
  if (peer === 'internet') return isInternet(estate, address)
  if (typeof peer === 'string') return covers(prefixBits(peer), address)
  if ('prefixList' in peer)
    return coveredBy(there(estate.prefixLists.get(peer.prefixList))?.ranges, address)
  if ('service' in peer) return coveredBy(there(estate.services.get(peer.service))?.ranges, address)
  for (const [id, one] of estate.interfaces) {
    if (!there(one) || one.subnet === undefined || !hasAddress(one, address)) continue
    if (
      'ruleSet' in peer &&
      there(estate.ruleSets.get(peer.ruleSet)) &&
      one.ruleSets?.includes(peer.ruleSet)
    )
      return true
    if ('tag' in peer) {
      const [key, ...value] = peer.tag.split('=')
      if (tagsAt(estate, one.subnet, id)[key!] === value.join('=')) return true
    }
  }
  return false
}

type Match = Pick<Rule, 'direction' | 'protocol' | 'ports' | 'sourcePorts' | 'peers' | 'local'>

function matches(estate: Estate, rule: Match, direction: Direction, packet: Packet): boolean {
  const [near, far] = direction === 'out' ? [packet.src, packet.dst] : [packet.dst, packet.src]
  return (
    rule.direction === direction &&
    protocolMatches(rule.protocol, packet) &&
    portMatches(rule.ports, packet.dport) &&
    portMatches(rule.sourcePorts, packet.sport) &&
    (rule.peers === undefined || rule.peers.some((peer) => peerMatches(estate, peer, far))) &&
    (rule.local === undefined || coveredBy(rule.local, near))
  )
}

/** Whether a rule set lets a packet pass. */
function passes(
  estate: Estate,
  id: string,
  direction: Direction,
  packet: Packet,
  known: boolean,
): boolean {
  const set = there(estate.ruleSets.get(id))
  if (!set) return false
  if (known && (set.stateful ?? true)) return true
  const rules = [...(set.rules ?? [])].sort((a, b) => (a.order ?? 0) - (b.order ?? 0))
  const first = rules.find((rule) => matches(estate, rule, direction, packet))
  return (first ? (first.action ?? 'allow') : (set.otherwise?.[direction] ?? 'deny')) === 'allow'
}

function applies(estate: Estate, to: AppliesTo | undefined, spot: Spot): boolean {
  if (to === undefined || to === 'all') return true
  const network = networkOf(estate, spot.subnet)
  if (Array.isArray(to)) {
    const refs = [`networks/${network}`, `subnets/${spot.subnet}`, `interfaces/${spot.iface}`]
    return to.some(
      (ref) =>
        refs.includes(ref) ||
        (ref.startsWith('groups/') && inGroup(estate, ref.slice('groups/'.length), spot)),
    )
  }
  if ('region' in to) return regionOf(estate, spot.subnet) === to.region
  const [key, ...value] = (to as { tag: string }).tag.split('=')
  return tagsAt(estate, spot.subnet, spot.iface)[key!] === value.join('=')
}

/**
 * Whether a group takes in an interface, its subnet or its network: those named, and those that
 * meet its condition, without its exceptions.
 */
function inGroup(estate: Estate, id: string, spot: Spot): boolean {
  const group = there(estate.groups.get(id))
  if (!group) return false
  const network = networkOf(estate, spot.subnet)
  const member = { networks: network, subnets: spot.subnet, interfaces: spot.iface ?? '' }[
    group.section
  ]
  if (!member || group.except?.includes(member)) return false
  if (group.members?.includes(member)) return true
  const { where } = group
  if (!where) return false
  const [key, ...value] = (where.tag ?? '').split('=')
  const tags =
    group.section === 'networks'
      ? (estate.networks.get(network)!.tags ?? {})
      : tagsAt(estate, spot.subnet, group.section === 'interfaces' ? member : null)
  const region =
    group.section === 'networks'
      ? estate.networks.get(network)!.region
      : regionOf(estate, spot.subnet)
  return (
    (where.tag === undefined || tags[key!] === value.join('=')) &&
    (where.region === undefined || region === where.region) &&
    (where.name === undefined ||
      new RegExp(`^${where.name.replaceAll('.', '\\.').replaceAll('*', '.*')}$`).test(member))
  )
}

/** Design 3.2, "Rules on the way": every level in its order. */
export function askAt(
  estate: Estate,
  spot: Spot,
  direction: Direction,
  packet: Packet,
  { crosses, known, finalBefore }: Manner,
): Asked {
  const one = spot.iface === null ? undefined : estate.interfaces.get(spot.iface)
  const subnet = estate.subnets.get(spot.subnet)!
  const level = (code: string, named: readonly string[]): Denied | null => {
    const sets = named.filter((id) => there(estate.ruleSets.get(id)))
    if (sets.length === 0 || sets.some((id) => passes(estate, id, direction, packet, known)))
      return null
    return { code, object: `ruleSets/${sets[0]}` }
  }
  const estateRule = known
    ? undefined
    : [...estate.estateRules]
        .filter(
          (rule) =>
            up(rule) &&
            applies(estate, rule.appliesTo, spot) &&
            matches(estate, rule, direction, packet),
        )
        .sort((a, b) => a.order - b.order)[0]
  const local = () => level('denied-local', one?.localRules === undefined ? [] : [one.localRules])
  const byEstate = (): Denied | null =>
    estateRule?.action === 'deny'
      ? { code: 'denied-estate', object: `estateRules/${estateRule.order}` }
      : null
  const boundary = () =>
    crosses
      ? level('denied-boundary', subnet.boundary === undefined ? [] : [subnet.boundary])
      : null
  const ofInterface =
    (spot.frontend === undefined ? one?.ruleSets : estate.frontends.get(spot.frontend)!.ruleSets) ??
    []
  const ofSubnet = subnet.ruleSets ?? []
  const atInterface = () => level('denied-interface', ofInterface)
  const atSubnet = () => level('denied-subnet', ofSubnet)
  const final = estateRule?.action === 'allow'
  const skip = final || (known && finalBefore)
  const inner = direction === 'out' ? [atInterface, atSubnet] : [atSubnet, atInterface]
  const anyOfTwo = (): Denied | null => {
    const [first, second] = inner.map((ask) => ask())
    if (
      estate.networks.get(subnet.network)!.levels !== 'any' ||
      !ofInterface.some((id) => there(estate.ruleSets.get(id))) ||
      !ofSubnet.some((id) => there(estate.ruleSets.get(id)))
    )
      return first ?? second ?? null
    return first !== null && second !== null ? first! : null
  }
  const between = skip ? [] : direction === 'out' ? [anyOfTwo, boundary] : [boundary, anyOfTwo]
  const steps = direction === 'out' ? [local, byEstate, ...between] : [byEstate, ...between, local]
  for (const step of steps) {
    const denied = step()
    if (denied) return { denied, final }
  }
  return { denied: null, final }
}

/** The boundary alone, for what stands in a subnet without being a host there. */
export function askEdgeOf(
  estate: Estate,
  subnet: string,
  direction: Direction,
  packet: Packet,
  known: boolean,
): Asked {
  const { boundary } = estate.subnets.get(subnet)!
  const passed =
    boundary === undefined ||
    !there(estate.ruleSets.get(boundary)) ||
    passes(estate, boundary, direction, packet, known)
  return {
    denied: passed ? null : { code: 'denied-boundary', object: `ruleSets/${boundary}` },
    final: false,
  }
}
