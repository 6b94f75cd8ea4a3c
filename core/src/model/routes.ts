import { prefixOf, type Prefix } from '../address/prefix'
import type { PrefixEntry } from '../address/prefix-table'
import type { Destination, Estate, Route } from '../format/estate'
import type { Model, RouteModel } from './model'
import { targetOf, type Target } from './targets'

/** The documented private ranges that a default-open network drops by itself (design part 3.1). */
const DROPPED = ['10.0.0.0/8', '172.16.0.0/12', '192.168.0.0/16', '100.64.0.0/10'].map(prefixOf)
const EVERYTHING = ['0.0.0.0/0', '::/0'].map(prefixOf)

export const LEARNED_PRIORITY = 1000
const DEFAULT_PRIORITY = 1000

type Index = Model['index']

/** A built-in route as an entry of a prefix table. */
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

/** A learned route as an entry of a prefix table. */
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

/**
 * The prefixes a written destination stands for: one, or each range of a list or service; none if
 * that is not in the estate.
 */
export function destinationPrefixes(estate: Estate, to: Destination): Prefix[] {
  if (typeof to === 'string') return [prefixOf(to)]
  const ranges =
    to.prefixList !== undefined
      ? estate.prefixLists.get(to.prefixList)
      : estate.services.get(to.service!)
  return ranges?.state === 'deleted' ? [] : (ranges?.ranges ?? []).map(prefixOf)
}

/**
 * One written route as table entries, one per prefix it stands for. Deleted routes are not there.
 */
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
