import { bitsOf, coveredBy, isV4, type Bits } from './bits'
import { endpointOf, atNat, atInspection, atTransit } from './elements'
import { atFirewall, keepsItself } from './firewalls'
import { Arrived, ask, comesHome, askEdge, enter, lose, mayUndo, type Journey } from './journey'
import { leaveByDoor, leaveByGateway, leaveBySite, leaveFromRegion, servedBy } from './outside'
import { crossPeering, peered } from './peerings'
import { tableAt, winnersAt, type Candidate } from './routes'
import { sameSpot, type Spot } from './rules'
import {
  firewallAt,
  frontendAt,
  hasAddress,
  interfaceAt,
  interfaceUp,
  natAt,
  networkOf,
  regionOf,
  subnetAt,
  subnetThere,
  subnetUp,
  there,
  up,
} from './world'

/**
 * Who sends a packet into a subnet's routing: something with rules of its own, a NAT, or the
 * subnet's edge.
 */
export interface Sender {
  readonly spot: Spot
  readonly as: 'host' | 'nat' | 'edge'
  readonly name: string
}

/** A packet is sent from a subnet: rules out, then the route that wins, then its next hop. */
export function send(j: Journey, sender: Sender): never {
  const { subnet, iface, frontend } = sender.spot
  enter(j, `send ${sender.name} ${subnet} ${frontend}`)
  if (!(iface === null ? subnetUp(j.estate, subnet) : interfaceUp(j.estate, iface)))
    lose(j, 'interface-not-up', iface === null ? `subnets/${subnet}` : `interfaces/${iface}`)
  const network = networkOf(j.estate, subnet)
  const hasPublic = sender.as === 'nat' || publicFor(j, network, j.packet.src) !== null
  const winners = winnersAt(j.estate, subnet, iface, j.packet.dst, hasPublic)
  const winner = winners.length === 0 ? null : j.choose(winners)
  const crosses = winner === null || leavesSubnet(j, subnet, winner)
  if (sender.as === 'host') ask(j, sender.spot, 'out', crosses)
  else if (crosses) askEdge(j, subnet, 'out')
  const table = tableAt(j.estate, subnet)
  if (winner === null)
    lose(j, 'no-route', table === undefined ? `subnets/${subnet}` : `routeTables/${table}`)
  return follow(j, subnet, network, winner!)
}

/** The public address that stands for a private source, one to one; null where it has none. */
export function publicFor(j: Journey, network: string, source: Bits): string | null {
  const { estate } = j
  if (!isV4(source)) return null
  const owner = interfaceAt(j.estate, network, source)
  if (owner !== undefined) return j.estate.interfaces.get(owner)!.publicAddress ?? null
  const front = frontendAt(estate, network, source)
  if (front !== undefined) return j.estate.frontends.get(front)!.publicAddresses?.[0] ?? null
  if (natAt(estate, network, source) !== undefined) return null
  const subnet = subnetAt(j.estate, network, source)
  return subnet !== undefined && j.estate.subnets.get(subnet)!.givesPublicAddresses
    ? 'unpredictable'
    : null
}

function leavesSubnet(j: Journey, subnet: string, { via }: Candidate): boolean {
  const object = j.estate.subnets.get(subnet)!
  if (via === 'local') return subnetAt(j.estate, object.network, j.packet.dst) !== subnet
  if (typeof via !== 'object' || 'switch' in via) return true
  if (via.nat !== undefined) return there(j.estate.nats.get(via.nat))?.placement?.subnet !== subnet
  if (via.inspect !== undefined) return endpointOf(j, via.inspect)?.subnet !== subnet
  const owner =
    via.interface ??
    (via.address === undefined
      ? undefined
      : interfaceAt(j.estate, object.network, bitsOf(via.address)))
  return owner === undefined || j.estate.interfaces.get(owner)?.subnet !== subnet
}

/** Design 3.2, "What the next hop does". */
export function follow(
  j: Journey,
  subnet: string | null,
  network: string,
  { via, blame, lent }: Pick<Candidate, 'via' | 'blame' | 'lent'>,
): never {
  const { estate } = j
  if (via === 'local') return deliver(j, network, subnet)
  if (via === 'drop') return lose(j, 'drop-route', blame)
  if (via === 'internet') return leaveByDoor(j, network, subnet)
  if ('switch' in via) return reachService(j, via.switch, 'service-switch', network)
  const target = <T extends { state?: string }>(
    object: T | undefined,
    ref: string,
    belongs: (object: T) => boolean,
  ): T => {
    if (!there(object)) return lose(j, 'target-missing', blame)
    if (!belongs(object!)) return lose(j, 'target-elsewhere', ref)
    if (!up(object)) return lose(j, 'target-not-up', ref)
    return object!
  }
  if (via.gateway !== undefined) {
    const gateway = target(
      estate.gateways.get(via.gateway),
      `gateways/${via.gateway}`,
      (one) => one.network === network,
    )
    return gateway.kind === 'private'
      ? leaveBySite(j, via.gateway)
      : leaveByGateway(j, via.gateway, network)
  }
  if (via.nat !== undefined) {
    const ref = `nats/${via.nat}`
    const nat = target(estate.nats.get(via.nat), ref, (one) => one.network === network)
    if (nat.placement?.subnet !== undefined)
      return subnetUp(estate, nat.placement.subnet)
        ? atNat(j, via.nat, subnet)
        : lose(j, 'target-not-up', ref)
    j.way.push(ref)
    if (
      (subnet === null ? estate.networks.get(network)!.region : regionOf(estate, subnet)) !==
      nat.placement?.region
    )
      return lose(j, 'nat-other-region', ref)
    if (isV4(j.packet.src) && !servedBy(j, nat, network, j.packet.src))
      return lose(j, 'nat-does-not-serve', ref)
    return leaveFromRegion(j, via.nat)
  }
  if (via.peering !== undefined) {
    const sides = (p: { a: { network: string }; b: { network: string } }): boolean =>
      p.a.network === network || p.b.network === network
    const { a, b } = target(estate.peerings.get(via.peering), `peerings/${via.peering}`, sides)
    if (!there(estate.networks.get(a.network)) || !there(estate.networks.get(b.network)))
      return lose(j, 'target-not-up', `peerings/${via.peering}`)
    const other = crossPeering(j, via.peering, network, lent ? 'lent' : 'destination')
    return lent ? leaveBySite(j, lent) : deliver(j, other, null)
  }
  if (via.endpoint !== undefined) {
    const ref = `endpoints/${via.endpoint}`
    const { service, style } = target(
      estate.endpoints.get(via.endpoint),
      ref,
      (one) => one.network === network,
    )
    j.way.push(ref)
    const object = estate.services.get(service)
    if (style !== 'routed' || !coveredBy(object?.ranges, j.packet.dst))
      return lose(j, 'wrong-service', ref)
    const region =
      estate.networks.get(network)!.region ??
      (subnet === null ? undefined : regionOf(estate, subnet))
    if (object?.region !== undefined && region !== undefined && object.region !== region)
      return lose(j, 'service-other-region', ref)
    return reachService(j, service, ref, network)
  }
  if (via.inspect !== undefined) return atInspection(j, via.inspect, network, subnet, blame)
  if (via.transit !== undefined) {
    const ref = `transits/${via.transit}`
    const transit = target(estate.transits.get(via.transit), ref, (one) =>
      Object.values(one.attachments ?? {}).some((a) => there(a) && a.network === network),
    )
    const [name, attachment] = Object.entries(transit.attachments ?? {}).find(
      ([, a]) => there(a) && a.network === network,
    )!
    if (!up(attachment)) return passing(j, ref, 'target-not-up')
    const own = subnet === null ? undefined : estate.subnets.get(subnet)!.zone
    const listed = (attachment.subnets ?? []).filter((one) => subnetThere(estate, one))
    const zones = new Set(
      listed.map((id) => estate.subnets.get(id)!.zone).filter((zone) => zone !== undefined),
    )
    if (zones.size > 1 && own !== undefined && !zones.has(own))
      return passing(j, ref, 'transit-not-in-zone')
    const edge = listed.find((id) => estate.subnets.get(id)!.zone === own) ?? listed[0]
    if (edge !== undefined && edge !== subnet) {
      askEdge(j, edge, 'in')
      askEdge(j, edge, 'out')
    }
    return atTransit(j, via.transit, name)
  }
  return toNextHop(j, via, subnet, network, blame)
}

function passing(j: Journey, ref: string, code: string): never {
  j.way.push(ref)
  return lose(j, code, ref)
}

/** A next hop given as an address or an interface. */
export function toNextHop(
  j: Journey,
  via: { address?: string | undefined; interface?: string | undefined },
  subnet: string | null,
  network: string,
  blame: string,
): never {
  const { estate } = j
  const open = estate.networks.get(network)!.behaviour === 'default-open'
  const others = [...estate.networks.keys()].filter(
    (id) =>
      id !== network && there(estate.networks.get(id)) && peered(j, network, id) !== undefined,
  )
  let owner: string | undefined
  if (via.interface !== undefined) {
    owner = via.interface
    if (!there(estate.interfaces.get(owner))) return lose(j, 'target-missing', blame)
    if (!subnetThere(estate, estate.interfaces.get(owner)!.subnet))
      return lose(j, 'target-elsewhere', `interfaces/${owner}`)
  } else {
    const address = bitsOf(via.address!)
    for (const one of [network, ...(open ? others : [])]) {
      owner ??= interfaceAt(estate, one, address)
      const other =
        owner === undefined
          ? (frontendAt(estate, one, address) ?? natAt(estate, one, address))
          : undefined
      if (other !== undefined)
        return lose(
          j,
          'next-hop-not-forwarding',
          frontendAt(estate, one, address) !== undefined ? `frontends/${other}` : `nats/${other}`,
        )
    }
    if (owner === undefined) {
      const elsewhere = others.some(
        (one) =>
          interfaceAt(estate, one, address) ??
          frontendAt(estate, one, address) ??
          natAt(estate, one, address),
      )
      return lose(j, elsewhere ? 'next-hop-in-other-network' : 'next-hop-missing', blame)
    }
  }
  const home = networkOf(estate, estate.interfaces.get(owner)!.subnet!)
  if (home !== network && !(open && others.includes(home))) {
    if (others.includes(home)) return lose(j, 'next-hop-in-other-network', blame)
    return lose(j, 'target-elsewhere', `interfaces/${owner}`)
  }
  if (!interfaceUp(estate, owner)) return lose(j, 'next-hop-not-up', `interfaces/${owner}`)
  const itself = hasAddress(estate.interfaces.get(owner)!, j.packet.dst)
  if (!itself && !estate.interfaces.get(owner)!.forwards)
    return lose(j, 'next-hop-not-forwarding', `interfaces/${owner}`)
  if (home !== network) crossPeering(j, peered(j, network, home)!, network, 'next-hop')
  const near = home === network ? subnet : null
  return itself ? deliver(j, home, near) : atInterface(j, owner, near)
}

/** A packet comes to an interface that is to send it on. */
export function atInterface(j: Journey, id: string, fromSubnet: string | null): never {
  enter(j, `interface ${id} from ${fromSubnet}`)
  const subnet = j.estate.interfaces.get(id)!.subnet!
  const spot: Spot = { subnet, iface: id }
  ask(j, spot, 'in', fromSubnet !== subnet)
  const side = firewallAt(j.estate, id)
  if (side) return atFirewall(j, id, side)
  j.way.push(`interfaces/${id}`)
  return send(j, { spot, as: 'host', name: `through interfaces/${id}` })
}

/** Handed to whoever has the address in this network. */
export function deliver(j: Journey, network: string, fromSubnet: string | null): never {
  const { estate } = j
  const { dst } = j.packet
  enter(j, `local ${network} ${fromSubnet}`)
  if (j.nat !== null) return lose(j, 'private-destination', `nats/${j.nat}`)
  const front = frontendAt(estate, network, dst)
  if (front !== undefined) return atFrontend(j, front, fromSubnet)
  const nat = natAt(estate, network, dst)
  if (nat !== undefined) {
    if (j.answering && mayUndo(j, `nats/${nat}`, 'src')) return atNat(j, nat, fromSubnet)
    j.way.push(`nats/${nat}`)
    return lose(j, j.answering ? 'nat-no-flow' : 'nat-outbound-only', `nats/${nat}`)
  }
  const owner = interfaceAt(estate, network, dst)
  const subnet =
    owner === undefined ? subnetAt(estate, network, dst) : estate.interfaces.get(owner)!.subnet!
  if (subnet === undefined)
    return lose(
      j,
      'no-such-subnet',
      fromSubnet === null ? `networks/${network}` : `subnets/${fromSubnet}`,
    )
  const side = owner === undefined ? undefined : firewallAt(estate, owner)
  if (side && !keepsItself(j, side)) return atInterface(j, owner!, fromSubnet)
  const spot: Spot = { subnet, iface: owner ?? null }
  const ref = owner === undefined ? `subnets/${subnet}` : `interfaces/${owner}`
  if (!(owner === undefined ? subnetUp(estate, subnet) : interfaceUp(estate, owner)))
    return lose(j, 'interface-not-up', ref)
  ask(j, spot, 'in', fromSubnet !== subnet)
  const endpoint = [...estate.endpoints].find(
    ([, one]) => there(one) && one.style === 'addressed' && one.interfaces?.includes(owner ?? ''),
  )
  if (endpoint && !j.answering) {
    j.way.push(`endpoints/${endpoint[0]}`)
    j.leavesBy = `endpoints/${endpoint[0]}`
    throw new Arrived({ inside: spot, ref: `services/${endpoint[1].service}` })
  }
  if (j.answering) {
    const { asker } = j.answering
    if (!('inside' in asker) || !sameSpot(asker.inside, spot))
      return lose(j, 'answer-to-other-host', ref)
    return comesHome(j, ref)
  }
  throw new Arrived({ inside: spot, ref })
}

/** To a provider's service by an endpoint or the subnet's switch. */
function reachService(j: Journey, service: string, by: string, network: string): never {
  if (by === 'service-switch') j.way.push(by)
  if (j.nat !== null)
    return lose(j, 'private-destination', by === 'service-switch' ? `services/${service}` : by)
  if (j.answering) return lose(j, 'answer-to-other-host', `services/${service}`)
  j.leavesBy = by
  throw new Arrived({ outside: `services/${service}`, behind: { by, network } })
}

/** A frontend takes a packet: it ends the flow and opens another, or takes the answer to one. */
function atFrontend(j: Journey, id: string, fromSubnet: string | null): never {
  const { estate } = j
  const front = estate.frontends.get(id)!
  const ref = `frontends/${id}`
  const address = bitsOf(front.privateAddresses![0]!)
  const subnet = subnetAt(estate, front.network!, address) ?? front.subnets![0]!
  const spot: Spot = { subnet, iface: null, frontend: id }
  const place = { inside: spot, ref }
  if (!up(front) || !subnetUp(estate, subnet)) {
    j.way.push(ref)
    return lose(j, 'interface-not-up', ref)
  }
  ask(j, spot, 'in', fromSubnet !== subnet)
  j.way.push(ref)
  if (j.answering) {
    const { asker } = j.answering
    if (!('inside' in asker) || asker.ref !== ref) return lose(j, 'answer-to-other-host', ref)
    return comesHome(j, ref)
  }
  const { protocol, dport } = j.packet
  const numbers: Record<string, number> = { tcp: 6, udp: 17, icmp: 1, icmpv6: 58 }
  const listener = (front.listeners ?? []).find(
    (one) =>
      one.port === dport &&
      (one.protocol === 'any' ||
        (typeof one.protocol === 'number' ? one.protocol : numbers[one.protocol ?? 'tcp']) ===
          protocol),
  )
  if (!listener?.targets?.length) return lose(j, 'no-listener', ref)
  const target = estate.interfaces.get(j.choose(listener.targets))
  const to = there(target)
    ?.addresses?.map(bitsOf)
    .find((one) => one[0] === address[0])
  if (to === undefined) return lose(j, 'target-missing', ref)
  const before = j.flows.at(-1)
  j.flows.push({
    asker: before ? before.answerer : place,
    askerAddress: j.began.src,
    asked: { address: j.began.dst, port: j.began.dport },
    answerer: place,
    packet: j.packet,
    translated: j.translated,
    passed: j.passed,
    finals: j.finals,
    firewalls: j.firewalls,
    questions: j.questions,
  })
  j.packet = {
    src: address,
    dst: to,
    protocol,
    sport: 50000,
    dport: listener.targetPort ?? listener.port,
  }
  Object.assign(j, {
    began: j.packet,
    translated: [],
    passed: [],
    finals: [],
    firewalls: [],
    questions: [],
    seenAs: null,
  })
  return send(j, { spot, as: 'host', name: ref })
}
