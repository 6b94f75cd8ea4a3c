import { entriesOf, prefixTable, type PrefixTable } from '../address/prefix-table'
import { cached } from '../incremental/cells'
import type { RouteModel } from '../model/model'

/** The routes of one table by their prefixes. */
export type RoutesOfTable = PrefixTable<RouteModel>

/** The routes of a table that hosts with the same tags may use, for each combination of them. */
interface ByTags {
  readonly forAll: readonly RouteModel[]
  readonly limited: ReadonlyMap<string, readonly RouteModel[]>
  readonly known: Map<string, RoutesOfTable>
}

const known = new WeakMap<RoutesOfTable, ByTags | null>()

/**
 * The routes of a table without those that are limited to tags which a host does not carry. A
 * network may have thousands of them, of which a host meets a few. `tagKeys` are those of all tags
 * that the host, its subnet and its network carry. Costs, once for each combination
 * of tags that routes are limited to, as many steps as there are routes for it.
 */
export function ownRoutes(table: RoutesOfTable, tagKeys: () => readonly string[]): RoutesOfTable {
  const byTags = byTagsOf(table)
  if (byTags === null) return table
  const { forAll, limited } = byTags
  const tags = [...new Set(tagKeys())].filter((key) => limited.has(key)).sort()
  return cached(byTags.known, tags.join('\n'), () => {
    const own = new Set([...forAll, ...tags.flatMap((key) => limited.get(key)!)])
    return prefixTable([...own].map((route) => ({ prefix: route.prefix, value: route })))
  })
}

/** Of some keys of tags, those that routes of a table are limited to, in the order of names. */
export const limitingKeys = (table: RoutesOfTable, keys: ReadonlySet<string>): string[] => {
  const limited = byTagsOf(table)?.limited
  return limited === undefined ? [] : [...keys].filter((key) => limited.has(key)).sort()
}

/** The routes of a table that are limited to one of some tags. */
export const routesLimitedTo = (table: RoutesOfTable, keys: readonly string[]): RouteModel[] => {
  const limited = byTagsOf(table)?.limited
  return [...new Set(keys.flatMap((key) => limited?.get(key) ?? []))]
}

/** The routes of a table by the tags they are limited to; null where none is limited. */
function byTagsOf(table: RoutesOfTable): ByTags | null {
  let found = known.get(table)
  if (found === undefined) known.set(table, (found = indexed(table)))
  return found
}

function indexed(table: RoutesOfTable): ByTags | null {
  const limited = new Map<string, RouteModel[]>()
  const forAll: RouteModel[] = []
  for (const { value: route } of entriesOf(table)) {
    if (route.onlyTags === null) forAll.push(route)
    for (const key of route.onlyTags ?? []) {
      const list = limited.get(key)
      if (list) list.push(route)
      else limited.set(key, [route])
    }
  }
  return limited.size === 0 ? null : { forAll, limited, known: new Map() }
}
