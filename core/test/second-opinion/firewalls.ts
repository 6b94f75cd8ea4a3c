import type { Estate, Firewall } from '../../src/format/estate'
import { bitsOf, coveredBy, covers, prefixBits, type Bits } from './bits'
import { atInterface, send } from './inside'
import {
  ask,
  lose,
  mayUndo,
  translate,
  turned,
  undoLatest,
  type Journey,
  type Seen,
} from './journey'
import type { Packet } from './rules'
import {
  hasAddress,
  interfaceAt,
  interfaceUp,
  networkOf,
  subnetRanges,
  subnetThere,
  there,
  up,
} from './world'

interface Side {
  readonly firewall: string
  readonly label: string
}
type Routed = Extract<Firewall, { style: 'routed' }>

const protocolIs = (wanted: string | number | undefined, protocol: number): boolean =>
  wanted === undefined ||
  wanted === 'any' ||
  (typeof wanted === 'number' ? wanted : { icmp: 1, tcp: 6, udp: 17, icmpv6: 58 }[wanted]) ===
    protocol

const portIn = (wanted: readonly (string | number)[] | undefined, port: number | null): boolean =>
  wanted === undefined ||
  (port !== null &&
    wanted.some((one) => {
      const [low, high] = String(one).split('-').map(Number)
      return port >= low! && port <= (high ?? low!)
    }))

/** Whether a packet to a firewall's own address stays with it. */
export function keepsItself(j: Journey, side: Side): boolean {
  if (j.answering) return !mayUndo(j, `firewalls/${side.firewall}`, 'src')
  return destinationRule(j, side) === undefined
}

function destinationRule(j: Journey, { firewall, label }: Side) {
  const { destinationTranslation = [] } = j.estate.firewalls.get(firewall) as Routed
  const { protocol, dport, dst } = j.packet
  return destinationTranslation.find(
    (rule) =>
      (rule.at ?? label) === label &&
      protocolIs(rule.protocol, protocol) &&
      (rule.port === undefined || rule.port === dport) &&
      bitsOf(rule.forward.address)[0] === dst[0],
  )
}

/**
 * A firewall handles a packet: by an interface of its own, or, inline, at an endpoint in a subnet.
 */
export function atFirewall(
  j: Journey,
  iface: string | null,
  side: Side,
  endpointSubnet?: string,
): never {
  const { estate } = j
  const firewall = estate.firewalls.get(side.firewall)!
  const ref = `firewalls/${side.firewall}`
  const stateful = firewall.stateful ?? true
  const endpoint = firewall.style === 'inline' ? side.label : ''
  // It knows a flow by what the packet was when it left: the answer must be just that, turned
  // round.
  const answered = turned(j.packet)
  const same = (seen: Seen): boolean =>
    seen.ref === ref &&
    seen.endpoint === endpoint &&
    (['src', 'dst', 'sport', 'dport'] as const).every(
      (field) => seen.packet[field] === answered[field],
    )
  const knows = j.answering?.firewalls.some(same) ?? false
  const remember = (): void =>
    void (stateful && j.firewalls.push({ ref, endpoint, packet: j.packet }))
  j.way.push(ref)
  if (firewall.style === 'inline') {
    if (!knows) decide(j, firewall, ref, null, remember)
    remember()
    return send(j, { spot: { subnet: endpointSubnet!, iface: null }, as: 'edge', name: ref })
  }
  if (!up(firewall)) return lose(j, 'target-not-up', ref)
  if (knows) while (mayUndo(j, ref, 'src')) undoLatest(j)
  else {
    const rule = hasAddress(estate.interfaces.get(iface!)!, j.packet.dst)
      ? destinationRule(j, side)
      : undefined
    if (rule)
      translate(j, ref, 'dst', bitsOf(rule.forward.address), {
        port: rule.forward.port ?? j.packet.dport,
      })
  }
  const out = wayOut(j, firewall, ref)
  if (knows) while (mayUndo(j, ref, 'dst')) undoLatest(j)
  else decide(j, firewall, ref, { from: side.label, to: out.label }, remember)
  if (!knows) translateSource(j, firewall, ref, side.label, out)
  remember()
  if (!interfaceUp(estate, out.iface)) return lose(j, 'interface-not-up', `interfaces/${out.iface}`)
  const subnet = estate.interfaces.get(out.iface)!.subnet!
  const spot = { subnet, iface: out.iface }
  const neighbour =
    out.hop === null ? undefined : interfaceAt(estate, networkOf(estate, subnet), out.hop)
  if (
    neighbour === undefined ||
    neighbour === out.iface ||
    estate.interfaces.get(neighbour)!.subnet !== subnet
  )
    return send(j, { spot, as: 'host', name: ref })
  ask(j, spot, 'out', false)
  if (!interfaceUp(estate, neighbour)) return lose(j, 'next-hop-not-up', `interfaces/${neighbour}`)
  if (!estate.interfaces.get(neighbour)!.forwards)
    return lose(j, 'next-hop-not-forwarding', `interfaces/${neighbour}`)
  return atInterface(j, neighbour, subnet)
}

/** Policy; and for answers to flows it never saw, its lack of state. */
function decide(
  j: Journey,
  firewall: Firewall,
  ref: string,
  sides: { from: string; to: string } | null,
  met: () => void,
): void {
  const allowed = policyAllows(j.estate, firewall, sides, j.packet)
  j.questions.push({ direction: 'in', packet: j.packet, wall: ref, sides })
  const strange = j.answering !== null && (firewall.stateful ?? true)
  if (strange && (j.packet.protocol === 6 || !allowed)) {
    met()
    lose(j, 'no-state', ref)
  }
  if (!allowed) lose(j, 'denied-policy', ref)
}

/** Whether a firewall's policy lets a packet from one side to another. */
export function policyAllows(
  estate: Estate,
  firewall: Firewall,
  sides: { from: string; to: string } | null,
  packet: Packet,
): boolean {
  const { src, dst, protocol, sport, dport } = packet
  const peer = (
    one: string | { prefixList?: string; ruleSet?: string },
    address: Bits,
  ): boolean => {
    if (typeof one === 'string') return covers(prefixBits(one), address)
    if (one.prefixList !== undefined)
      return coveredBy(there(estate.prefixLists.get(one.prefixList))?.ranges, address)
    return [...estate.interfaces.values()].some(
      (i) =>
        there(estate.ruleSets.get(one.ruleSet!)) &&
        there(i) &&
        i.ruleSets?.includes(one.ruleSet!) &&
        hasAddress(i, address),
    )
  }
  const rule = [...(firewall.policy ?? [])]
    .sort((a, b) => a.order - b.order)
    .find(
      (r) =>
        (r.fromSide === undefined || r.fromSide === sides?.from) &&
        (r.toSide === undefined || r.toSide === sides?.to) &&
        (r.from === undefined || r.from.some((one) => peer(one, src))) &&
        (r.to === undefined || r.to.some((one) => peer(one, dst))) &&
        protocolIs(r.protocol, protocol) &&
        portIn(r.ports, dport) &&
        portIn(r.sourcePorts, sport),
    )
  return (rule?.action ?? firewall.otherwise ?? 'deny') === 'allow'
}

interface Out {
  readonly iface: string
  readonly label: string
  readonly hop: Bits | null
}

/**
 * The firewall's own routes: connected subnets first, then the longest prefix; none written: its
 * only or its outside interface.
 */
function wayOut(j: Journey, firewall: Routed, ref: string): Out {
  const sides = Object.entries(firewall.interfaces ?? {}).filter(([, id]) =>
    there(j.estate.interfaces.get(id)),
  )
  const connected = (address: Bits): Out | undefined => {
    const found = sides.flatMap(([label, iface]) => {
      const id = j.estate.interfaces.get(iface)!.subnet
      const subnet = subnetThere(j.estate, id) ? j.estate.subnets.get(id!) : undefined
      return (subnet ? subnetRanges(subnet) : [])
        .map(prefixBits)
        .filter((prefix) => covers(prefix, address))
        .map((prefix) => ({ out: { iface, label, hop: null }, length: prefix.length }))
    })
    return found.sort((a, b) => b.length - a.length)[0]?.out
  }
  if (!firewall.routes?.length) {
    const only = sides.length === 1 ? sides[0] : sides.find(([label]) => label === 'outside')
    return only ? { label: only[0], iface: only[1], hop: null } : lose(j, 'no-route', ref)
  }
  const near = connected(j.packet.dst)
  if (near) return near
  const route = firewall.routes
    .filter((one) => up(one) && covers(prefixBits(one.to), j.packet.dst))
    .sort((a, b) => prefixBits(b.to).length - prefixBits(a.to).length)[0]
  if (!route) return lose(j, 'no-route', ref)
  if (route.via === 'drop') return lose(j, 'drop-route', ref)
  const hop = bitsOf(route.via.address)
  const by = connected(hop)
  return by ? { ...by, hop } : lose(j, 'no-route', ref)
}

function translateSource(j: Journey, firewall: Routed, ref: string, from: string, out: Out): void {
  const rule = firewall.sourceTranslation?.find(
    (one) => (one.fromSide ?? from) === from && (one.toSide ?? out.label) === out.label,
  )
  if (!rule) return
  const own =
    rule.use === 'interface' ? (j.estate.interfaces.get(out.iface)!.addresses ?? []) : rule.use
  const fitting = own.filter((text) => bitsOf(text)[0] === j.packet.src[0])
  if (fitting.length === 0) return
  translate(j, ref, 'src', bitsOf(fitting[0]!), { iface: out.iface })
  j.seenAs = rule.use === 'interface' ? [fitting[0]!] : fitting
}
