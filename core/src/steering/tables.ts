import { pointer, type Operation } from '../changes/index'
import type { Route, RouteTable } from '../format/estate'
import { freeId } from '../mend/situation'
import type { Model } from '../model/model'

/** Routes that some subnets are to have. */
export interface Leading {
  readonly subnets: readonly string[]
  readonly routes: readonly Route[]
  /** What a table that has to be made is called after. */
  readonly name: string
}

/** A change of tables under way: what was made of each so far. */
export interface Tables {
  readonly tables: Map<string, RouteTable>
  readonly operations: Operation[]
}

export const noTables = (): Tables => ({
  tables: new Map(),
  operations: [],
})

/**
 * Leads subnets by routes. A table that only these subnets use gets the routes; of one that others
 * use too, a copy is made and associated, so that the others go on as they do.
 */
export function lead(model: Model, under: Tables, { subnets, routes, name }: Leading): void {
  const chosen = new Set(subnets)
  const byTable = new Map<number, string[]>()
  for (const id of subnets) {
    const { table } = model.subnets[model.index.subnets.get(id)!]!
    byTable.set(table, [...(byTable.get(table) ?? []), id])
  }
  for (const [table, own] of byTable) {
    const known = model.tables[table]
    const isShared =
      known !== undefined && model.subnets.some((one) => one.table === table && !chosen.has(one.id))
    if (known && !isShared) setRoutes(under, known.id, known.source, routes)
    else copyTable(model, under, { subnets: own, routes, name }, known?.source)
  }
}

/** Puts routes into a table that is there, in place of those to the same destinations. */
export function setRoutes(
  under: Tables,
  id: string,
  source: RouteTable,
  routes: readonly Route[],
): void {
  const before = under.tables.get(id) ?? source
  const after = withRoutes(before, routes)
  under.tables.set(id, after)
  const path = pointer('routeTables', id, 'routes')
  const old = before.routes
  if (old === undefined) {
    under.operations.push({ op: 'add', path, value: after.routes })
    return
  }
  for (const route of routes) {
    const at = old.findIndex(({ to }) => JSON.stringify(to) === JSON.stringify(route.to))
    if (at >= 0 && JSON.stringify(old[at]!.via) === JSON.stringify(route.via)) continue
    const place = pointer('routeTables', id, 'routes', at >= 0 ? at : '-')
    under.operations.push({ op: at >= 0 ? 'replace' : 'add', path: place, value: route })
  }
}

const withRoutes = (table: RouteTable, routes: readonly Route[]): RouteTable => {
  const put = new Map(routes.map((route) => [JSON.stringify(route.to), route]))
  const kept = (table.routes ?? []).map((route) => {
    const now = put.get(JSON.stringify(route.to))
    put.delete(JSON.stringify(route.to))
    return now ?? route
  })
  return { ...table, routes: [...kept, ...put.values()] }
}

function copyTable(
  model: Model,
  under: Tables,
  { subnets, routes, name }: Leading,
  source: RouteTable | undefined,
): void {
  const { estate } = model
  const network = estate.subnets.get(subnets[0]!)!.network
  const id = freeId(new Map<string, unknown>([...estate.routeTables, ...under.tables]), name)
  // Without a table, a subnet of a default-open network learns from all; it goes on to.
  const learnsAll = estate.networks.get(network)?.behaviour === 'default-open'
  const none: RouteTable = learnsAll ? { network, learn: 'all' } : { network }
  const { title: _, note: __, ...own } = source ?? none
  const table = withRoutes({ ...own, network: own.network ?? network }, routes)
  under.tables.set(id, table)
  under.operations.push({ op: 'add', path: pointer('routeTables', id), value: table })
  for (const subnet of subnets) associate(model, under, subnet, id)
}

/** Has a subnet look up a table of its own. */
export function associate(model: Model, under: Tables, subnet: string, table: string): void {
  const now = model.estate.subnets.get(subnet)?.routeTable
  if (now === table) return
  const op = now === undefined ? 'add' : 'replace'
  under.operations.push({ op, path: pointer('subnets', subnet, 'routeTable'), value: table })
}

/** Subnets that are not in the estate; a move with such a name is refused. */
export const unknownSubnets = (model: Model, subnets: readonly string[]): readonly string[] =>
  subnets.filter((id) => !model.index.subnets.has(id))
