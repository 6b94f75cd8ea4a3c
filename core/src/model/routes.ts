import { addressOf, prefixOf, type Prefix } from '../address/prefix'
import type { PrefixEntry } from '../address/prefix-table'
import type { Destination, Estate, Route, Via } from '../format/estate'
import type { Model, RouteModel, Target } from './model'

/** The documented private ranges that a default-open network drops by itself (design part 3.1). */
const DROPPED = ['10.0.0.0/8', '172.16.0.0/12', '192.168.0.0/16', '100.64.0.0/10'].map(prefixOf)
const EVERYTHING = ['0.0.0.0/0', '::/0'].map(prefixOf)

export const LEARNED_PRIORITY = 1000
const DEFAULT_PRIORITY = 1000

type Index = Model['index']

export const builtInRoute = (prefix: Prefix, target: Target): PrefixEntry<RouteModel> => ({
  prefix,
  value: {
    prefix,
    target,
    origin: 'built-in',
    table: -1,
    entry: -1,
    priority: 0,
    onlyTags: null,
    state: 'up',
    writtenTo: null,
    learnedFrom: null,
  },
})

export const learnedRoute = (
  prefix: Prefix,
  target: Target,
  learnedFrom: string,
): PrefixEntry<RouteModel> => ({
  prefix,
  value: {
    prefix,
    target,
    origin: 'learned',
    table: -1,
    entry: -1,
    priority: LEARNED_PRIORITY,
    onlyTags: null,
    state: 'up',
    writtenTo: null,
    learnedFrom,
  },
})

/** What comes with a default-open network beyond its own and its peers' ranges. */
export const openDefaults = (): PrefixEntry<RouteModel>[] => [
  ...EVERYTHING.map((prefix) => builtInRoute(prefix, { kind: 'internet' })),
  ...DROPPED.map((prefix) => builtInRoute(prefix, { kind: 'drop' })),
]

/** The prefixes a written destination stands for: one, or each range of a list or service; none if that is not in the estate. */
export function destinationPrefixes(estate: Estate, to: Destination): Prefix[] {
  if (typeof to === 'string') return [prefixOf(to)]
  const ranges =
    to.prefixList !== undefined
      ? estate.prefixLists.get(to.prefixList)
      : estate.services.get(to.service!)
  return ranges?.state === 'deleted' ? [] : (ranges?.ranges ?? []).map(prefixOf)
}

/** One written route as table entries, one per prefix it stands for. Deleted routes are not there. */
export function tableEntries(
  estate: Estate,
  index: Index,
  table: number,
  route: Route,
  entry: number,
): PrefixEntry<RouteModel>[] {
  if (route.state === 'deleted') return []
  const target = targetOf(index, route.via)
  return destinationPrefixes(estate, route.to).map((prefix) => ({
    prefix,
    value: {
      prefix,
      target,
      origin: 'table',
      table,
      entry,
      priority: route.priority ?? DEFAULT_PRIORITY,
      onlyTags: route.onlyTags ?? null,
      state: route.state === 'pending' || route.state === 'down' ? route.state : 'up',
      writtenTo:
        typeof route.to === 'string' ? null : (route.to.prefixList ?? route.to.service ?? null),
      learnedFrom: null,
    },
  }))
}

/** A written next hop with its object's number. */
export function targetOf(index: Index, via: Via): Target {
  if (typeof via === 'string') return { kind: via }
  if (via.address !== undefined) return { kind: 'address', address: addressOf(via.address) }
  if (via.inspect !== undefined) return inspectTarget(index, via.inspect)
  const found = (['nat', 'gateway', 'endpoint', 'peering', 'interface', 'transit'] as const).find(
    (kind) => via[kind] !== undefined,
  )!
  const section = (
    {
      nat: 'nats',
      gateway: 'gateways',
      endpoint: 'endpoints',
      peering: 'peerings',
      interface: 'interfaces',
      transit: 'transits',
    } as const
  )[found]
  const id = via[found]!
  return { kind: found, id, index: index[section].get(id) ?? -1 }
}

/** `firewall/endpoint`; either may hold slashes, so the longest firewall id that exists is taken. */
function inspectTarget(index: Index, text: string): Target {
  let slash = text.lastIndexOf('/')
  const fallback = slash
  while (slash > 0 && !index.firewalls.has(text.slice(0, slash)))
    slash = text.lastIndexOf('/', slash - 1)
  if (slash <= 0) slash = fallback
  const id = slash < 0 ? text : text.slice(0, slash)
  return {
    kind: 'inspect',
    id,
    index: index.firewalls.get(id) ?? -1,
    endpoint: slash < 0 ? '' : text.slice(slash + 1),
  }
}
