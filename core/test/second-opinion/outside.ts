import type { Estate, Nat } from '../../src/format/estate'
import { bitsOf, covers, coveredBy, isPublic, isV4, prefixBits, textOf, type Bits } from './bits'
import { publicFor } from './inside'
import { natTranslates } from './elements'
import {
  Arrived,
  comesHome,
  enter,
  leaves,
  lose,
  mayUndo,
  standIn,
  translate,
  undoLatest,
  unpredictable,
  type Journey,
} from './journey'
import {
  firstById,
  interfaceAt,
  liveNetworks,
  networkOf,
  regionOf,
  subnetAt,
  subnetThere,
  there,
  up,
} from './world'
import { fromSite, intoNat, intoFirewall, throughDoor, pastDoor, inByAddress } from './coming-in'

export const oneToOne = (network: string): string => `one to one in ${network}`

/** Out by an internet gateway, or by one that lets IPv6 out. */
export function leaveByGateway(j: Journey, id: string, network: string): never {
  const ref = `gateways/${id}`
  const { src, dst } = j.packet
  const failing = (code: string, object: string): never => {
    j.way.push(ref)
    return lose(j, code, object)
  }
  if (!isPublic(dst)) return failing('private-destination', ref)
  if (j.estate.gateways.get(id)!.kind === 'outbound-v6' && isV4(dst))
    return failing('gateway-wrong-family', ref)
  if (j.answering && j.estate.gateways.get(id)!.kind === 'outbound-v6')
    return failing('gateway-outbound-only', ref)
  if (j.answering) return answerLeaves(j, network, ref, ref)
  if (!isPublic(src)) {
    const own = publicFor(j, network, src)
    const nat =
      own === null && j.estate.networks.get(network)!.behaviour === 'priority-routed'
        ? attachedNat(j, network, src)
        : undefined
    if (nat !== undefined) {
      j.way.push(`nats/${nat}`)
      natTranslates(j, nat)
    } else if (own === null) return failing('no-public-address', sourceRef(j, network))
    else becomePublic(j, network, own)
  }
  leaves(j, ref)
  return onTheInternet(j)
}

/** Out by the built-in way of a default-open network. */
export function leaveByDoor(j: Journey, network: string, subnet: string | null): never {
  const { src, dst } = j.packet
  if (!isPublic(dst)) {
    j.way.push('internet')
    return lose(
      j,
      'private-destination',
      subnet === null ? `networks/${network}` : `subnets/${subnet}`,
    )
  }
  if (j.answering) return answerLeaves(j, network, 'internet', `networks/${network}`)
  if (!isPublic(src)) {
    const nat = attachedNat(j, network, src)
    if (nat !== undefined) return leaveFromRegion(j, nat, true)
    const own =
      publicFor(j, network, src) ??
      (j.estate.networks.get(network)!.implicitEgress && isV4(src) ? unpredictable : null)
    if (own === null) {
      j.way.push('internet')
      return lose(j, 'no-public-address', sourceRef(j, network))
    }
    becomePublic(j, network, own)
  }
  leaves(j, 'internet')
  return onTheInternet(j)
}

function becomePublic(j: Journey, network: string, own: string): void {
  translate(j, oneToOne(network), 'src', own === unpredictable ? standIn(j.estate) : bitsOf(own))
  j.seenAs = [own]
}

/** An answer at a door: its source must become what was asked, and nothing else turns it. */
function answerLeaves(j: Journey, network: string, way: string, door: string): never {
  const latest = j.undo[0]
  j.way.push(way)
  if (mayUndo(j, oneToOne(network), 'dst')) undoLatest(j)
  else if (latest?.end === 'dst' || !isPublic(j.packet.src))
    return lose(j, 'answer-from-other-address', door)
  j.leavesBy = way
  j.nat = null
  return onTheInternet(j)
}

/** What is named where a source has no public address. */
function sourceRef(j: Journey, network: string): string {
  const { src } = j.packet
  const owner = interfaceAt(j.estate, network, src)
  if (owner !== undefined) return `interfaces/${owner}`
  const nat = [...j.estate.nats].find(
    ([, one]) =>
      there(one) &&
      one.network === network &&
      one.kind === 'private' &&
      one.addresses?.some((text) => bitsOf(text) === src),
  )
  if (nat) return `nats/${nat[0]}`
  const subnet = subnetAt(j.estate, network, src)
  return subnet === undefined ? `networks/${network}` : `subnets/${subnet}`
}

/** Whether a NAT serves a source: its subnet, and the range of it. */
export function servedBy(j: Journey, nat: Nat, network: string, source: Bits): boolean {
  const id = subnetAt(j.estate, network, source)
  if (id === undefined) return false
  const { subnets = 'all', ranges = 'all' } = nat.serves ?? {}
  const subnet = j.estate.subnets.get(id)!
  if (subnets !== 'all' && !subnets.includes(id)) return false
  if (ranges === 'all') return true
  if (ranges === 'primary') return coveredBy(subnet.ranges, source)
  return ranges.some((name) => coveredBy([subnet.namedRanges?.[name] ?? []].flat(), source))
}

function attachedNat(j: Journey, network: string, source: Bits): string | undefined {
  const subnet = subnetAt(j.estate, network, source)
  if (subnet === undefined || !isV4(source)) return undefined
  const serving = [...j.estate.nats].filter(
    ([, nat]) =>
      up(nat) &&
      nat.network === network &&
      (nat.kind ?? 'public') === 'public' &&
      nat.placement?.region !== undefined &&
      nat.placement.region === regionOf(j.estate, subnet) &&
      servedBy(j, nat, network, source),
  )
  return firstById(serving)?.[0]
}

/** Through a NAT that serves a region, and out directly. */
export function leaveFromRegion(j: Journey, id: string, entering = false): never {
  const ref = `nats/${id}`
  if (entering) j.way.push(ref)
  if (j.answering) return lose(j, 'nat-no-flow', ref)
  if (!isPublic(j.packet.dst)) return lose(j, 'private-destination', ref)
  natTranslates(j, id)
  j.leavesBy = ref
  j.nat = null
  return onTheInternet(j)
}

/** Out by a private gateway to its site. */
export function leaveBySite(j: Journey, id: string): never {
  const gateway = j.estate.gateways.get(id)!
  const site = gateway.site === undefined ? undefined : j.estate.sites.get(gateway.site)
  const ref = `gateways/${id}`
  j.way.push(ref)
  if (j.nat !== null) return lose(j, 'private-destination', ref)
  if (up(site) && coveredBy(site!.ranges, j.packet.dst)) {
    j.leavesBy = ref
    return arriveOutside(j, `sites/${gateway.site}`)
  }
  if (!up(site) || !site!.internet || !isPublic(j.packet.dst))
    return lose(j, 'site-does-not-have-it', ref)
  leaves(j, `sites/${gateway.site}`)
  if (!isPublic(j.packet.src) && j.answering) return lose(j, 'answer-from-other-address', ref)
  if (!isPublic(j.packet.src)) {
    translate(j, `sites/${gateway.site}`, 'src', standIn(j.estate))
    j.seenAs = [unpredictable]
  }
  return onTheInternet(j)
}

function arriveOutside(j: Journey, ref: string): never {
  if (j.answering) {
    const { asker } = j.answering
    if (!('outside' in asker) || asker.outside !== ref) return lose(j, 'answer-to-other-host', ref)
    return comesHome(j, ref)
  }
  throw new Arrived({ outside: ref })
}

/** A packet on the internet goes to whoever has the address. */
export function onTheInternet(j: Journey): never {
  const { estate, answering } = j
  const { dst } = j.packet
  enter(j, 'internet')
  if (answering && 'outside' in answering.asker && dst === answering.askerAddress)
    return comesHome(j, answering.asker.outside)
  const latest = j.undo[0]
  const due = answering && latest?.end === 'src' && latest.after === dst ? latest : null
  if (due?.by.startsWith('sites/')) return fromSite(j, due.by.slice('sites/'.length))
  if (due?.by.startsWith('nats/')) return intoNat(j, due.by.slice('nats/'.length))
  if (due?.iface !== undefined) return intoFirewall(j, due.iface)
  const doorOf = due && [...estate.networks.keys()].find((id) => oneToOne(id) === due.by)
  if (doorOf != null) {
    const subnet = subnetAt(estate, doorOf, due!.before)
    const door = throughDoor(j, doorOf, subnet)
    undoLatest(j)
    return pastDoor(j, doorOf, door)
  }
  const owner = [...estate.interfaces].find(
    ([, one]) => there(one) && one.publicAddress !== undefined && bitsOf(one.publicAddress) === dst,
  )
  if (owner) {
    const [id, one] = owner
    const inner = one.addresses?.map(bitsOf).find(isV4)
    if (inner === undefined || !subnetThere(estate, one.subnet))
      return lose(j, 'interface-not-up', `interfaces/${id}`)
    return inByAddress(j, networkOf(estate, one.subnet!), one.subnet!, inner)
  }
  const front = [...estate.frontends].find(
    ([, one]) => there(one) && one.publicAddresses?.some((text) => bitsOf(text) === dst),
  )
  if (front) {
    if (!there(estate.networks.get(front[1].network!)))
      return lose(j, 'interface-not-up', `frontends/${front[0]}`)
    const inner = bitsOf(front[1].privateAddresses![0]!)
    return inByAddress(
      j,
      front[1].network!,
      subnetAt(estate, front[1].network!, inner) ?? front[1].subnets![0]!,
      inner,
    )
  }
  const nat = [...estate.nats].find(
    ([, one]) =>
      there(one) &&
      (one.kind ?? 'public') === 'public' &&
      [...(one.addresses ?? []), ...(one.rules ?? []).flatMap((r) => r.use)].some(
        (text) => bitsOf(text) === dst,
      ),
  )
  if (nat) return intoNat(j, nat[0])
  const wall = firewallWith(estate, dst)
  if (wall !== undefined) return intoFirewall(j, wall)
  const inside = liveNetworks(estate)
    .flatMap(([id, network]) =>
      (network.ranges ?? []).map((range) => ({ id, prefix: prefixBits(range) })),
    )
    .filter(({ prefix }) => covers(prefix, dst))
    .sort((a, b) => b.prefix.length - a.prefix.length)[0]
  if (inside)
    return pastDoor(j, inside.id, throughDoor(j, inside.id, subnetAt(estate, inside.id, dst)))
  const text = textOf(dst)
  if (there(estate.publicAddresses.get(text)))
    return lose(j, 'nobody-has-it', `publicAddresses/${text}`)
  throw new Arrived({ outside: whoHas(estate, dst) })
}

export function whoHas(estate: Estate, address: Bits): string {
  const holding = (section: 'services' | 'parties'): string | undefined =>
    [...estate[section]].find(([, one]) => there(one) && coveredBy(one.ranges, address))?.[0]
  const service = holding('services')
  const party = holding('parties')
  return service !== undefined
    ? `services/${service}`
    : party !== undefined
      ? `parties/${party}`
      : 'internet'
}

/** The interface by which a firewall's own pool of public addresses is reached. */
function firewallWith(estate: Estate, address: Bits): string | undefined {
  for (const firewall of estate.firewalls.values()) {
    if (!there(firewall) || firewall.style !== 'routed') continue
    for (const rule of firewall.sourceTranslation ?? []) {
      if (rule.use === 'interface' || !rule.use.some((text) => bitsOf(text) === address)) continue
      return (
        firewall.interfaces?.[rule.toSide ?? 'outside'] ??
        Object.values(firewall.interfaces ?? {})[0]
      )
    }
  }
  return undefined
}
