import type { Estate, Gateway, Nat } from '../../src/format/estate'
import { bitsOf, covers, coveredBy, isPublic, isV4, prefixBits, textOf, type Bits } from './bits'
import { atInterface, atNat, atTransit, crossPeering, deliver, follow, natTranslates, publicFor } from './inside'
import { Arrived, comesHome, enter, leaves, lose, mayUndo, standIn, translate, undoLatest, unpredictable, type Journey } from './journey'
import { peersOf, tableAt, transitBrings } from './routes'
import { firstById, inNetwork, interfaceAt, liveNetworks, networkOf, prefixesOf, regionOf, subnetAt, subnetThere, there, up } from './world'

const oneToOne = (network: string): string => `one to one in ${network}`

/** Out by an internet gateway, or by one that lets IPv6 out. */
export function leaveByGateway(j: Journey, id: string, network: string): never {
  const ref = `gateways/${id}`
  const { src, dst } = j.packet
  const failing = (code: string, object: string): never => {
    j.way.push(ref)
    return lose(j, code, object)
  }
  if (!isPublic(dst)) return failing('private-destination', ref)
  if (j.estate.gateways.get(id)!.kind === 'outbound-v6' && isV4(dst)) return failing('gateway-wrong-family', ref)
  if (j.answering && j.estate.gateways.get(id)!.kind === 'outbound-v6') return failing('gateway-outbound-only', ref)
  if (j.answering) return answerLeaves(j, network, ref, ref)
  if (!isPublic(src)) {
    const own = publicFor(j, network, src)
    const nat = own === null && j.estate.networks.get(network)!.behaviour === 'priority-routed' ? attachedNat(j, network, src) : undefined
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
    return lose(j, 'private-destination', subnet === null ? `networks/${network}` : `subnets/${subnet}`)
  }
  if (j.answering) return answerLeaves(j, network, 'internet', `networks/${network}`)
  if (!isPublic(src)) {
    const nat = attachedNat(j, network, src)
    if (nat !== undefined) return leaveFromRegion(j, nat, true)
    const own = publicFor(j, network, src) ?? (j.estate.networks.get(network)!.implicitEgress && isV4(src) ? unpredictable : null)
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
  else if (latest?.end === 'dst' || !isPublic(j.packet.src)) return lose(j, 'answer-from-other-address', door)
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
    ([, one]) => there(one) && one.network === network && one.kind === 'private' && one.addresses?.some((text) => bitsOf(text) === src),
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
  if (!up(site) || !site!.internet || !isPublic(j.packet.dst)) return lose(j, 'site-does-not-have-it', ref)
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
  if (answering && 'outside' in answering.asker && dst === answering.askerAddress) return comesHome(j, answering.asker.outside)
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
  const owner = [...estate.interfaces].find(([, one]) => there(one) && one.publicAddress !== undefined && bitsOf(one.publicAddress) === dst)
  if (owner) {
    const [id, one] = owner
    const inner = one.addresses?.map(bitsOf).find(isV4)
    if (inner === undefined || !subnetThere(estate, one.subnet)) return lose(j, 'interface-not-up', `interfaces/${id}`)
    return inByAddress(j, networkOf(estate, one.subnet!), one.subnet!, inner)
  }
  const front = [...estate.frontends].find(([, one]) => there(one) && one.publicAddresses?.some((text) => bitsOf(text) === dst))
  if (front) {
    if (!there(estate.networks.get(front[1].network!))) return lose(j, 'interface-not-up', `frontends/${front[0]}`)
    const inner = bitsOf(front[1].privateAddresses![0]!)
    return inByAddress(j, front[1].network!, subnetAt(estate, front[1].network!, inner) ?? front[1].subnets![0]!, inner)
  }
  const nat = [...estate.nats].find(
    ([, one]) =>
      there(one) &&
      (one.kind ?? 'public') === 'public' &&
      [...(one.addresses ?? []), ...(one.rules ?? []).flatMap((r) => r.use)].some((text) => bitsOf(text) === dst),
  )
  if (nat) return intoNat(j, nat[0])
  const wall = firewallWith(estate, dst)
  if (wall !== undefined) return intoFirewall(j, wall)
  const inside = liveNetworks(estate)
    .flatMap(([id, network]) => (network.ranges ?? []).map((range) => ({ id, prefix: prefixBits(range) })))
    .filter(({ prefix }) => covers(prefix, dst))
    .sort((a, b) => b.prefix.length - a.prefix.length)[0]
  if (inside) return pastDoor(j, inside.id, throughDoor(j, inside.id, subnetAt(estate, inside.id, dst)))
  const text = textOf(dst)
  if (there(estate.publicAddresses.get(text))) return lose(j, 'nobody-has-it', `publicAddresses/${text}`)
  throw new Arrived({ outside: whoHas(estate, dst) })
}

export function whoHas(estate: Estate, address: Bits): string {
  const holding = (section: 'services' | 'parties'): string | undefined =>
    [...estate[section]].find(([, one]) => there(one) && coveredBy(one.ranges, address))?.[0]
  const service = holding('services')
  const party = holding('parties')
  return service !== undefined ? `services/${service}` : party !== undefined ? `parties/${party}` : 'internet'
}

/** The interface by which a firewall's own pool of public addresses is reached. */
function firewallWith(estate: Estate, address: Bits): string | undefined {
  for (const firewall of estate.firewalls.values()) {
    if (!there(firewall) || firewall.style !== 'routed') continue
    for (const rule of firewall.sourceTranslation ?? []) {
      if (rule.use === 'interface' || !rule.use.some((text) => bitsOf(text) === address)) continue
      return firewall.interfaces?.[rule.toSide ?? 'outside'] ?? Object.values(firewall.interfaces ?? {})[0]
    }
  }
  return undefined
}

function intoNat(j: Journey, id: string): never {
  const nat = j.estate.nats.get(id)!
  const ref = `nats/${id}`
  if (!j.answering || !mayUndo(j, ref, 'src') || nat.network === undefined) {
    j.way.push(ref)
    return lose(j, j.answering ? 'nat-no-flow' : 'nat-outbound-only', ref)
  }
  throughDoor(j, nat.network, nat.placement?.subnet)
  if (nat.placement?.subnet !== undefined) return atNat(j, id, null)
  undoLatest(j)
  j.way.push(ref)
  return deliver(j, nat.network, null)
}

function intoFirewall(j: Journey, iface: string): never {
  const subnet = j.estate.interfaces.get(iface)!.subnet!
  throughDoor(j, networkOf(j.estate, subnet), subnet)
  return atInterface(j, iface, null)
}

function inByAddress(j: Journey, network: string, subnet: string, inner: Bits): never {
  const door = throughDoor(j, network, subnet)
  translate(j, oneToOne(network), 'dst', inner)
  return pastDoor(j, network, door)
}

/** The door by which a packet from the internet comes in; null for the built-in one. */
function throughDoor(j: Journey, network: string, subnet: string | undefined): string | null {
  const { estate } = j
  const v4 = isV4(j.packet.dst)
  const all = [...estate.gateways].filter(
    ([, one]) => there(one) && one.network === network && (one.kind === 'internet' || (one.kind === 'outbound-v6' && !v4)),
  )
  const open = all.filter(([, one]) => up(one) && up(estate.networks.get(network)))
  const table = subnet === undefined ? undefined : estate.routeTables.get(tableAt(estate, subnet) ?? '')
  const byDefault = (up(table) ? (table!.routes ?? []) : [])
    .filter((route) => up(route) && prefixesOf(estate, route.to).includes(v4 ? '4' : '6'))
    .flatMap((route) => (typeof route.via === 'object' ? (route.via.gateway ?? []) : []))
  const doors = open.filter(([, one]) => one.kind === 'internet')
  const door = (j.answering ? open : doors).find(([id]) => id === byDefault[0]) ?? firstById(doors) ?? firstById(open)
  const behaviour = estate.networks.get(network)!.behaviour ?? 'table-routed'
  if (behaviour !== 'table-routed' && (!door || (behaviour === 'default-open' && door[0] !== byDefault[0]))) {
    j.way.push('internet')
    return null
  }
  if (!door) return lose(j, 'no-internet-gateway', all.length > 0 ? `gateways/${firstById(all)![0]}` : `networks/${network}`)
  j.way.push(`gateways/${door[0]}`)
  if (door[1].kind === 'outbound-v6' && !j.answering) return lose(j, 'gateway-outbound-only', `gateways/${door[0]}`)
  return door[0]
}

/** Inside the door: its own table may lead elsewhere, else local. */
function pastDoor(j: Journey, network: string, door: string | null): never {
  return byIngress(j, door === null ? undefined : j.estate.gateways.get(door), network, () => deliver(j, network, null))
}

function byIngress(j: Journey, gateway: Gateway | undefined, network: string, local: () => never): never {
  const id = gateway?.routeTable
  const table = id === undefined ? undefined : there(j.estate.routeTables.get(id))
  if (!table || !up(table)) return local()
  const routes = (table.routes ?? [])
    .filter((route) => up(route))
    .flatMap((route) => prefixesOf(j.estate, route.to).map((prefix) => ({ prefix, via: route.via })))
    .filter(({ prefix }) => covers(prefix, j.packet.dst))
  const longest = Math.max(...routes.map(({ prefix }) => prefix.length))
  const best = routes.filter(({ prefix }) => prefix.length === longest)
  const via = best.length === 0 ? 'local' : j.choose(best).via
  if (via === 'local') return local()
  const blame = `routeTables/${id}`
  return follow(j, null, network, { via, blame })
}

/** From a site into the cloud, by every gateway that announces the longest prefix round the destination. */
export function fromSite(j: Journey, site: string): never {
  const { estate } = j
  enter(j, `site ${site}`)
  if (j.answering && mayUndo(j, `sites/${site}`, 'src')) undoLatest(j)
  const { dst } = j.packet
  const ways: { gateway: string; transit: [string, string] | null; length: number }[] = []
  const add = (gateway: string, announced: readonly Bits[], transit: [string, string] | null): void => {
    const lengths = announced.filter((prefix) => covers(prefix, dst)).map((prefix) => prefix.length)
    if (lengths.length > 0) ways.push({ gateway, transit, length: Math.max(...lengths) })
  }
  for (const [id, gateway] of estate.gateways) {
    if (gateway.kind !== 'private' || gateway.site !== site || !up(gateway)) continue
    const written = gateway.announces?.map(prefixBits)
    if (gateway.network !== undefined && up(estate.networks.get(gateway.network))) {
      const users = usersOf(estate, gateway.network)
      add(id, written ?? [gateway.network, ...users].flatMap((n) => (estate.networks.get(n)!.ranges ?? []).map(prefixBits)), null)
    }
    for (const [transit, { attachments = {}, ...rest }] of estate.transits)
      for (const [name, attachment] of Object.entries(attachments))
        if (up(rest) && attachment.gateway === id && up(attachment)) add(id, written ?? transitBrings(estate, transit, name), [transit, name])
  }
  const longest = Math.max(...ways.map(({ length }) => length))
  const best = ways.filter(({ length }) => length === longest)
  if (best.length === 0) return lose(j, j.answering ? 'site-has-no-route-back' : 'site-has-no-route', `sites/${site}`)
  const { gateway, transit } = j.choose(best)
  j.way.push(`gateways/${gateway}`)
  if (transit) return atTransit(j, transit[0], transit[1])
  const network = estate.gateways.get(gateway)!.network!
  return byIngress(j, estate.gateways.get(gateway), network, () => {
    const user = inNetwork(estate.networks.get(network), dst) ? undefined : usersOf(estate, network).find((id) => inNetwork(estate.networks.get(id), dst))
    if (user === undefined) return deliver(j, network, null)
    const peering = [...peersOf(estate, user)]
      .filter((p) => p.other === network && p.uses && p.lends)
      .map((p) => p.peering)
      .sort()[0]!
    crossPeering(j, peering, network, 'lent')
    return deliver(j, user, null)
  })
}

const usersOf = (estate: Estate, lender: string): string[] =>
  [...estate.networks.keys()].filter(
    (id) => id !== lender && there(estate.networks.get(id)) && peersOf(estate, id).some((p) => p.other === lender && p.uses && p.lends),
  )
