import type { Estate, Via } from '../../src/format/estate'
import { bitsOf, covers, prefixBits, type Bits } from './bits'
import {
  frontendAt,
  interfaceAt,
  interfaceUp,
  natAt,
  networkOf,
  prefixesOf,
  subnetRanges,
  subnetsOf,
  tagsAt,
  there,
  up,
} from './world'

/** A route that could carry a packet, of whatever origin. */
export interface Candidate {
  readonly prefix: Bits
  readonly via: Via | { readonly switch: string }
  readonly origin: 'table' | 'learned' | 'built-in'
  /** What a fault of the route names: the table, or the subnet for built-in ones. */
  readonly blame: string
  readonly priority: number
  /** For a peering: the private gateway behind it that this route is lent from. */
  readonly lent?: string
}

/** The table in force at a subnet. */
export function tableAt(estate: Estate, subnet: string): string | undefined {
  const network = estate.networks.get(networkOf(estate, subnet))!
  const own = estate.subnets.get(subnet)!.routeTable
  const choice =
    network.behaviour === 'priority-routed' ||
    own === undefined ||
    !there(estate.routeTables.get(own))
      ? network.defaultRouteTable
      : own
  return choice !== undefined && there(estate.routeTables.get(choice)) ? choice : undefined
}

/** Design 3.1, read from top to bottom: every route that wins at a subnet for an address. */
export function winnersAt(
  estate: Estate,
  subnet: string,
  host: string | null,
  address: Bits,
  hasPublicAddress: boolean,
): Candidate[] {
  const networkId = networkOf(estate, subnet)
  const behaviour = estate.networks.get(networkId)!.behaviour ?? 'table-routed'
  const tags = Object.keys(tagsAt(estate, subnet, host))
  const tableId = tableAt(estate, subnet)
  const table = tableId === undefined ? undefined : estate.routeTables.get(tableId)
  const here = `subnets/${subnet}`
  const matching = (candidates: Candidate[]): Candidate[] =>
    candidates.filter((one) => covers(one.prefix, address))

  const written: Candidate[] = []
  for (const route of (up(table) && table!.routes) || []) {
    if (!up(route)) continue
    if (behaviour === 'priority-routed') {
      if (route.onlyTags && !route.onlyTags.some((key) => tags.includes(key))) continue
      if (isDeadHop(estate, networkId, route.via)) continue
    }
    for (const prefix of prefixesOf(estate, route.to))
      written.push({
        prefix,
        via: route.via,
        origin: 'table',
        blame: `routeTables/${tableId}`,
        priority: route.priority ?? 1000,
      })
  }
  const learn =
    table === undefined
      ? behaviour === 'default-open'
        ? 'all'
        : 'none'
      : up(table)
        ? (table.learn ?? 'none')
        : 'none'
  const learned = learnable(estate, networkId)
    .filter(({ from }) => learn === 'all' || (learn !== 'none' && learn.includes(from)))
    .map(({ prefix, via, lent }): Candidate => ({
      prefix,
      via,
      origin: 'learned',
      blame: here,
      priority: 1000,
      ...(lent ? { lent } : {}),
    }))
  const builtIn = (prefixes: readonly (string | Bits)[], via: Candidate['via']): Candidate[] =>
    prefixes.map((text) => ({
      prefix: text.includes('/') ? prefixBits(text) : text,
      via,
      origin: 'built-in',
      blame: here,
      priority: 0,
    }))
  const locals = matching(
    behaviour === 'priority-routed'
      ? subnetsOf(estate, networkId).flatMap(([, one]) => builtIn(subnetRanges(one), 'local'))
      : builtIn(estate.networks.get(networkId)!.ranges ?? [], 'local'),
  )
  const peers = matching(
    behaviour === 'table-routed'
      ? []
      : peersOf(estate, networkId).flatMap(({ peering, other }) =>
          builtIn(
            behaviour === 'priority-routed'
              ? subnetsOf(estate, other).flatMap(([, one]) => subnetRanges(one))
              : (estate.networks.get(other)!.ranges ?? []),
            { peering },
          ),
        ),
  )
  const services = switchedAt(estate, subnet)

  if (behaviour === 'priority-routed') {
    if (locals.length > 0) return longest(locals)
    if (peers.length > 0) return longest(peers)
    const best = longest(matching([...written, ...learned]))
    const lowest = Math.min(...best.map((one) => one.priority))
    const service = services.find(({ prefix }) => covers(prefix, address))?.service
    return best
      .filter((one) => one.priority === lowest)
      .map((one) =>
        service !== undefined && !hasPublicAddress && isInternetGateway(estate, one.via)
          ? { ...one, via: { switch: service } }
          : one,
      )
  }
  if (locals.length > 0) {
    const length = longest(locals)[0]!.prefix.length
    const over = longest(matching(written).filter((one) => one.prefix.length >= length))
    return over.length > 0 ? over : longest(locals)
  }
  const openWays =
    behaviour === 'default-open' ? [...builtIn(['0.0.0.0/0', '::/0'], 'internet')] : []
  const drops =
    behaviour === 'default-open'
      ? builtIn(['10.0.0.0/8', '172.16.0.0/12', '192.168.0.0/16', '100.64.0.0/10'], 'drop')
      : []
  const switches = matching(
    services.flatMap(({ prefix, service }) => builtIn([prefix], { switch: service })),
  )
  const order =
    behaviour === 'default-open'
      ? [switches, written, learned, peers, openWays, drops]
      : [switches, written, peers, learned]
  const best = longest(order.flatMap(matching))
  return (
    order
      .map((origin) => best.filter((one) => origin.includes(one)))
      .find((some) => some.length > 0) ?? []
  )
}

const longest = (candidates: Candidate[]): Candidate[] => {
  const length = Math.max(...candidates.map((one) => one.prefix.length))
  return candidates.filter((one) => one.prefix.length === length)
}

function isInternetGateway(estate: Estate, via: Candidate['via']): boolean {
  return (
    typeof via === 'object' &&
    'gateway' in via &&
    via.gateway !== undefined &&
    there(estate.gateways.get(via.gateway))?.kind === 'internet'
  )
}

/** A next hop that a priority-routed network passes over. */
function isDeadHop(estate: Estate, network: string, via: Via): boolean {
  if (typeof via !== 'object') return false
  if (via.interface !== undefined) return !interfaceUp(estate, via.interface)
  if (via.address === undefined) return false
  const address = bitsOf(via.address)
  const owner = interfaceAt(estate, network, address)
  if (owner !== undefined) return !interfaceUp(estate, owner)
  const anybody = (id: string): boolean =>
    interfaceAt(estate, id, address) !== undefined ||
    frontendAt(estate, id, address) !== undefined ||
    natAt(estate, id, address) !== undefined
  return !anybody(network) && !peersOf(estate, network).some(({ other }) => anybody(other))
}

/** The service ranges a subnet reaches by its own switch. */
function switchedAt(estate: Estate, subnet: string): { service: string; prefix: Bits }[] {
  const wanted = estate.subnets.get(subnet)!.privateServices ?? []
  const ids = wanted === 'all' ? [...estate.services.keys()] : wanted
  return ids
    .filter((id) => up(estate.services.get(id)))
    .flatMap((service) =>
      (estate.services.get(service)!.ranges ?? []).map((r) => ({ service, prefix: prefixBits(r) })),
    )
}

export function peersOf(
  estate: Estate,
  network: string,
): { peering: string; other: string; uses: boolean; lends: boolean }[] {
  return [...estate.peerings].flatMap(([peering, { a, b, ...rest }]) => {
    if (!up(rest)) return []
    const [own, far] = a.network === network ? [a, b] : [b, a]
    if (own.network !== network || !there(estate.networks.get(far.network))) return []
    return [
      {
        peering,
        other: far.network,
        uses: own.usesPeerGateway ?? false,
        lends: far.lendsGateway ?? false,
      },
    ]
  })
}

/** Everything `learn` can choose from in a network. */
function learnable(
  estate: Estate,
  network: string,
): { from: string; prefix: Bits; via: Via; lent?: string }[] {
  const out: { from: string; prefix: Bits; via: Via; lent?: string }[] = []
  for (const [id, gateway] of estate.gateways) {
    if (
      gateway.kind !== 'private' ||
      !up(gateway) ||
      gateway.network === undefined ||
      !up(estate.networks.get(gateway.network))
    )
      continue
    const prefixes = gatewayBrings(estate, id)
    if (gateway.network === network)
      for (const prefix of prefixes) out.push({ from: id, prefix, via: { gateway: id } })
    for (const { peering, other, uses, lends } of peersOf(estate, network))
      if (other === gateway.network && uses && lends)
        for (const prefix of prefixes) out.push({ from: id, prefix, via: { peering }, lent: id })
  }
  for (const [id, transit] of estate.transits) {
    if (!up(transit)) continue
    for (const [name, attachment] of Object.entries(transit.attachments ?? {}))
      if (attachment.network === network && up(attachment))
        for (const prefix of transitBrings(estate, id, name))
          out.push({ from: id, prefix, via: { transit: id } })
  }
  return out
}

/** What a private gateway brings from its far side. */
export function gatewayBrings(estate: Estate, id: string): Bits[] {
  const gateway = estate.gateways.get(id)!
  const site = gateway.site === undefined ? undefined : estate.sites.get(gateway.site)
  return (gateway.learned ?? (up(site) ? site!.ranges : undefined) ?? []).map(prefixBits)
}

export interface TransitRoute {
  readonly prefix: Bits
  readonly via: string
  readonly learned: boolean
}

/** Every route in the table of a transit's attachment. */
export function transitRoutes(
  estate: Estate,
  transitId: string,
  attachment: string,
): TransitRoute[] {
  const transit = estate.transits.get(transitId)!
  const table = transit.tables?.[transit.attachments?.[attachment]?.table ?? '']
  if (!up(table)) return []
  const out: TransitRoute[] = []
  for (const route of table!.routes ?? []) {
    if (!up(route)) continue
    for (const prefix of prefixesOf(estate, route.to))
      out.push({ prefix, via: route.via, learned: false })
  }
  const from =
    table!.learn === 'all'
      ? Object.keys(transit.attachments ?? {})
      : table!.learn === 'none' || !table!.learn
        ? []
        : table!.learn
  for (const name of from) {
    const one = transit.attachments?.[name]
    if (!up(one)) continue
    if (one!.network !== undefined && up(estate.networks.get(one!.network)))
      for (const range of estate.networks.get(one!.network)!.ranges ?? [])
        out.push({ prefix: prefixBits(range), via: name, learned: true })
    if (one!.gateway !== undefined && up(estate.gateways.get(one!.gateway)))
      for (const prefix of gatewayBrings(estate, one!.gateway))
        out.push({ prefix, via: name, learned: true })
  }
  return out
}

/**
 * The ranges a transit brings to one of its attachments: what that one's table leads to, elsewhere.
 */
export function transitBrings(estate: Estate, transitId: string, attachment: string): Bits[] {
  const { attachments } = estate.transits.get(transitId)!
  return transitRoutes(estate, transitId, attachment)
    .filter(({ via }) => via !== 'drop' && via !== attachment && up(attachments?.[via]))
    .map(({ prefix }) => prefix)
}
