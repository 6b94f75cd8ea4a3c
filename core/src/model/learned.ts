import { prefixOf, type Prefix } from '../address/prefix'
import type { PrefixEntry } from '../address/prefix-table'
import type { Estate, Transit } from '../format/estate'
import type { Model, RouteModel } from './model'
import { destinationPrefixes, learnedRoute } from './routes'

const isUp = (object: { state?: string } | undefined): boolean =>
  object !== undefined && (object.state ?? 'up') === 'up'

/**
 * What a private gateway announces into the cloud: what it is said to learn, else the ranges of its
 * site.
 */
export function gatewayRanges(estate: Estate, gatewayId: string): Prefix[] {
  const gateway = estate.gateways.get(gatewayId)
  if (!gateway) return []
  if (gateway.learned) return gateway.learned.map(prefixOf)
  const site = gateway.site === undefined ? undefined : estate.sites.get(gateway.site)
  return site && isUp(site) ? (site.ranges ?? []).map(prefixOf) : []
}

/**
 * Every route that could be learned in `network`, by what it is learned from (`learn` then
 * chooses): its own private gateways, those a peer lends it, and the transits it is attached to.
 */
export function learnableRoutes(
  estate: Estate,
  index: Model['index'],
  network: string,
): Map<string, PrefixEntry<RouteModel>[]> {
  const out = new Map<string, PrefixEntry<RouteModel>[]>()
  const add = (source: string, entries: PrefixEntry<RouteModel>[]): void =>
    void out.set(source, [...(out.get(source) ?? []), ...entries])

  const privateGateways = (of: string): string[] =>
    isUp(estate.networks.get(of))
      ? [...estate.gateways]
          .filter(([, g]) => g.kind === 'private' && g.network === of && isUp(g))
          .map(([id]) => id)
      : []
  for (const id of privateGateways(network)) {
    add(
      id,
      gatewayRanges(estate, id).map((prefix) =>
        learnedRoute(
          prefix,
          { kind: 'gateway', id, index: index.gateways.get(id) ?? -1 },
          `gateways/${id}`,
        ),
      ),
    )
  }
  for (const [peeringId, peering] of estate.peerings) {
    if (!isUp(peering)) continue
    for (const [own, other] of [
      [peering.a, peering.b],
      [peering.b, peering.a],
    ] as const) {
      if (own.network !== network || !own.usesPeerGateway || !other.lendsGateway) continue
      for (const id of privateGateways(other.network)) {
        add(
          id,
          gatewayRanges(estate, id).map((prefix) =>
            learnedRoute(
              prefix,
              { kind: 'peering', id: peeringId, index: index.peerings.get(peeringId) ?? -1 },
              `gateways/${id}`,
            ),
          ),
        )
      }
    }
  }
  for (const [id, transit] of estate.transits) {
    if (!isUp(transit)) continue
    for (const [name, attachment] of Object.entries(transit.attachments ?? {})) {
      if (attachment.network !== network || !isUp(attachment)) continue
      add(
        id,
        transitRanges(estate, transit, name).map((prefix) =>
          learnedRoute(
            prefix,
            { kind: 'transit', id, index: index.transits.get(id) ?? -1 },
            `transits/${id}`,
          ),
        ),
      )
    }
  }
  return out
}

/**
 * The ranges that the table of an attachment leads to, other than back to the attachment itself,
 * and not dropped ones.
 */
export function transitRanges(estate: Estate, transit: Transit, attachment: string): Prefix[] {
  const name = transit.attachments?.[attachment]?.table
  const table = name === undefined ? undefined : transit.tables?.[name]
  if (!table || !isUp(table)) return []
  const fixed = (table.routes ?? [])
    .filter(
      (route) =>
        isUp(route) &&
        route.via !== 'drop' &&
        route.via !== attachment &&
        isUp(transit.attachments?.[route.via]),
    )
    .flatMap((route) => destinationPrefixes(estate, route.to))
  const from =
    table.learn === 'all'
      ? Object.keys(transit.attachments ?? {})
      : Array.isArray(table.learn)
        ? table.learn
        : []
  const learned = from
    .filter((other) => other !== attachment)
    .flatMap((other) => attachmentRanges(estate, transit, other))
  return [...fixed, ...learned]
}

/**
 * What a transit learns from an attachment: its network's or its site's ranges; from other transits
 * nothing.
 */
export function attachmentRanges(estate: Estate, transit: Transit, name: string): Prefix[] {
  const attachment = transit.attachments?.[name]
  if (!attachment || !isUp(attachment)) return []
  if (attachment.network !== undefined) {
    const network = estate.networks.get(attachment.network)
    return isUp(network) ? (network!.ranges ?? []).map(prefixOf) : []
  }
  if (attachment.gateway !== undefined && isUp(estate.gateways.get(attachment.gateway)))
    return gatewayRanges(estate, attachment.gateway)
  return []
}
