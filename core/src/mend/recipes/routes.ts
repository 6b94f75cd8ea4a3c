import { pointer, type Operation } from '../../changes/index'
import type { Estate, Route, RouteTable, Via } from '../../format/estate'
import { mend, type Mend } from '../mend'
import { freeId, prefixFor, type Looked, type Situation } from '../situation'

/** Makes the winning route lead elsewhere, or writes one where none won. */
export function setRoute(s: Situation, via: Via): Operation[] {
  const { lookup } = s
  return lookup?.table != null && lookup.entry >= 0
    ? [replaceVia(lookup.table, lookup.entry, via)]
    : addRoute(s, lookup, prefixFor(s, s.dst), via)
}

/** Makes the route at a place of a table lead elsewhere. */
export const replaceVia = (table: string, entry: number, via: Via): Operation => ({
  op: 'replace',
  path: pointer('routeTables', table, 'routes', entry, 'via'),
  value: via,
})

/**
 * Writes one more route where a subnet looks up; a subnet without a table gets one. A route of the
 * same prefix gives way.
 */
export function addRoute(
  { estate }: Pick<Situation, 'estate'>,
  lookup: Looked | null,
  to: Route['to'],
  via: Via,
): Operation[] {
  if (!lookup) return []
  const route = { to, via }
  if (lookup.table === null) {
    const table = freeId(estate.routeTables, `${lookup.subnet}-table`)
    return newTable(estate, table, lookup.subnet, [route])
  }
  const same = estate.routeTables.get(lookup.table)!.routes?.findIndex((one) => one.to === to) ?? -1
  return same >= 0
    ? [{ op: 'replace', path: pointer('routeTables', lookup.table, 'routes', same), value: route }]
    : appendRoutes(estate, lookup.table, [route])
}

/** Writes more routes at the end of a table. */
export const appendRoutes = (
  { routeTables }: Pick<Estate, 'routeTables'>,
  table: string,
  routes: readonly Route[],
): Operation[] =>
  routeTables.get(table)!.routes
    ? routes.map((value) => ({
        op: 'add',
        path: pointer('routeTables', table, 'routes', '-'),
        value,
      }))
    : [{ op: 'add', path: pointer('routeTables', table, 'routes'), value: routes }]

/**
 * Writes a table of some routes, and associates a subnet with it; in a priority-routed network,
 * which has one table, the network.
 */
export function newTable(
  { subnets, networks }: Pick<Estate, 'subnets' | 'networks'>,
  table: string,
  subnet: string,
  routes: readonly Route[],
): Operation[] {
  const { network } = subnets.get(subnet)!
  const hasOne = networks.get(network)?.behaviour === 'priority-routed'
  return [
    { op: 'add', path: pointer('routeTables', table), value: { network, routes } },
    hasOne
      ? { op: 'add', path: pointer('networks', network, 'defaultRouteTable'), value: table }
      : associate(subnet, table),
  ]
}

/** Gives a subnet a copy of its table with other routes, so that no other subnet is concerned. */
export function ownCopy(
  { routeTables }: Pick<Estate, 'routeTables'>,
  subnet: string,
  table: RouteTable,
  routes: readonly Route[],
  name = `${subnet}-table`,
): Operation[] {
  const id = freeId(routeTables, name)
  const { title: _, ...rest } = table
  return [
    { op: 'add', path: pointer('routeTables', id), value: { ...rest, routes } },
    associate(subnet, id),
  ]
}

/** Associates a subnet with a table. */
export const associate = (subnet: string, table: string): Operation => ({
  op: 'add',
  path: pointer('subnets', subnet, 'routeTable'),
  value: table,
})

/** Takes routes out of their table by their places, the last one first, so that places hold. */
export function removeRoutes(
  { routeTables }: Pick<Estate, 'routeTables'>,
  table: string,
  places: readonly number[],
): Mend | null {
  const entries = [...new Set(places)].sort((a, b) => b - a)
  const to = routeTables.get(table)?.routes?.[entries[0] ?? -1]?.to
  const what = `the route${typeof to === 'string' ? ` to ${to}` : ''}`
  return mend(
    `take ${entries.length === 1 ? what : `these ${entries.length} routes`} out of ${table}`,
    entries.map((entry) => ({
      op: 'remove',
      path: pointer('routeTables', table, 'routes', entry),
    })),
  )
}
