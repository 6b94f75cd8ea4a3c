import { containsPrefix, isPrefixFault, parsePrefix, type Prefix } from '../address/prefix'
import type { Route, Via } from '../format/estate'
import type { Model } from '../model/model'

/** Something that a route of a table may lead to. */
export interface RouteTarget {
  readonly via: Via
  /** As it is chosen: `nats/out-north`. */
  readonly says: string
}

/**
 * What a route of a table may lead to where the table is used: the objects of its networks, and
 * those that its networks are joined to. Costs a pass over the objects that can be next hops.
 */
export function routeTargets(model: Model, table: string): RouteTarget[] {
  const { estate } = model
  const networks = networksOf(model, table)
  const within = (network: string | undefined): boolean =>
    network !== undefined && networks.has(network)
  const ofSubnet = (id: string | undefined): boolean =>
    id !== undefined && within(estate.subnets.get(id)?.network)
  const out: RouteTarget[] = [
    { via: 'drop', says: 'drop' },
    { via: 'internet', says: 'internet' },
    { via: 'local', says: 'local' },
  ]
  for (const [id, { network }] of estate.gateways)
    if (within(network)) out.push({ via: { gateway: id }, says: `gateways/${id}` })
  for (const [id, nat] of estate.nats)
    if (within(nat.network) || ofSubnet(nat.placement?.subnet))
      out.push({ via: { nat: id }, says: `nats/${id}` })
  for (const [id, { a, b }] of estate.peerings)
    if (within(a.network) || within(b.network))
      out.push({ via: { peering: id }, says: `peerings/${id}` })
  for (const [id, { attachments }] of estate.transits)
    if (Object.values(attachments ?? {}).some(({ network }) => within(network)))
      out.push({ via: { transit: id }, says: `transits/${id}` })
  for (const [id, endpoint] of estate.endpoints)
    if (endpoint.style === 'routed' && within(endpoint.network))
      out.push({ via: { endpoint: id }, says: `endpoints/${id}` })
  for (const [id, firewall] of estate.firewalls)
    if (firewall.style === 'inline')
      for (const [label, { subnet }] of Object.entries(firewall.endpoints ?? {}))
        if (ofSubnet(subnet))
          out.push({ via: { inspect: `${id}/${label}` }, says: `firewalls/${id}/${label}` })
  for (const [id, one] of estate.interfaces)
    if (one.forwards === true && ofSubnet(one.subnet))
      out.push({ via: { interface: id }, says: `interfaces/${id}` })
  return out
}

/** The networks in which a table is used, or that it belongs to. */
function networksOf(model: Model, id: string): ReadonlySet<string> {
  const index = model.index.routeTables.get(id)
  const own = model.estate.routeTables.get(id)?.network
  const used = model.subnets
    .filter(({ table }) => table === index)
    .map(({ network }) => model.networks[network]?.id ?? '')
  return new Set(own === undefined ? used : [own, ...used])
}

/** Routes of a list that bear on a destination. */
export interface Shadowing {
  /** Wider routes that lose to it, as their destinations. */
  readonly shadows: readonly string[]
  /** More specific routes that win over it in a part of it. */
  readonly shadowedBy: readonly string[]
}

/** What a route to a prefix shadows among other routes, and what shadows it. */
export function shadowing(routes: readonly Route[], to: string): Shadowing {
  const own = parsePrefix(to)
  if (isPrefixFault(own)) return { shadows: [], shadowedBy: [] }
  const others = routes.flatMap((route): { text: string; prefix: Prefix }[] => {
    if (typeof route.to !== 'string' || route.to === to) return []
    const prefix = parsePrefix(route.to)
    return isPrefixFault(prefix) ? [] : [{ text: route.to, prefix }]
  })
  return {
    shadows: others.filter(({ prefix }) => containsPrefix(prefix, own)).map(({ text }) => text),
    shadowedBy: others.filter(({ prefix }) => containsPrefix(own, prefix)).map(({ text }) => text),
  }
}
