import { prefixOf, type Prefix } from '../address/prefix'
import type { PrefixEntry } from '../address/prefix-table'
import type { Estate, Transit } from '../format/estate'
import type { Model, RouteModel } from './model'
import { destinationPrefixes, learnedRoute } from './routes'
import type { Target } from './targets'

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
  for (const { source, ranges, target, from } of [
    ...ownGateways(estate, index, network),
    ...lentGateways(estate, index, network),
    ...attachedTransits(estate, index, network),
  ]) {
    const entries = ranges.map((prefix) => learnedRoute(prefix, target, from))
    out.set(source, [...(out.get(source) ?? []), ...entries])
  }
  return out
}

/** Ranges that are learned from a source, and where their routes lead. */
interface Learnable {
  /** The id of the gateway or transit they are learned from, as a table names it. */
  readonly source: string
  /** The same as `section/id`. */
  readonly from: string
  readonly ranges: readonly Prefix[]
  readonly target: Target
}

const privateGateways = (estate: Estate, network: string): string[] =>
  isUp(estate.networks.get(network))
    ? [...estate.gateways].flatMap(([id, gateway]) =>
        gateway.kind === 'private' && gateway.network === network && isUp(gateway) ? id : [],
      )
    : []

const ownGateways = (estate: Estate, index: Model['index'], network: string): Learnable[] =>
  privateGateways(estate, network).map((id) => ({
    source: id,
    from: `gateways/${id}`,
    ranges: gatewayRanges(estate, id),
    target: { kind: 'gateway', id, index: index.gateways.get(id) ?? -1 },
  }))

/** Gateways of networks that lend them over a peering. */
const lentGateways = (estate: Estate, index: Model['index'], network: string): Learnable[] =>
  [...estate.peerings].flatMap(([peering, one]) => {
    if (!isUp(one)) return []
    const sides = [
      [one.a, one.b],
      [one.b, one.a],
    ] as const
    return sides.flatMap(([own, other]) =>
      own.network === network && own.usesPeerGateway && other.lendsGateway
        ? privateGateways(estate, other.network).map((id) => ({
            source: id,
            from: `gateways/${id}`,
            ranges: gatewayRanges(estate, id),
            target: {
              kind: 'peering' as const,
              id: peering,
              index: index.peerings.get(peering) ?? -1,
            },
          }))
        : [],
    )
  })

const attachedTransits = (estate: Estate, index: Model['index'], network: string): Learnable[] =>
  [...estate.transits].flatMap(([id, transit]) =>
    isUp(transit)
      ? Object.entries(transit.attachments ?? {}).flatMap(([name, attachment]) =>
          attachment.network === network && isUp(attachment)
            ? {
                source: id,
                from: `transits/${id}`,
                ranges: transitRanges(estate, transit, name),
                target: { kind: 'transit' as const, id, index: index.transits.get(id) ?? -1 },
              }
            : [],
        )
      : [],
  )

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
