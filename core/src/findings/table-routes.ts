import { derived, sameItems } from '../incremental/derived'
import { pointer } from '../changes/index'
import type { Model, TableModel, RouteModel, SubnetModel } from '../model/model'
import type { FindingMend } from './finding'
import { groupBy } from '../model/sections'
import { presentOf, type CheckContext } from './survey'

/** Every route of a table, both families. */
export const routesOf = (table: TableModel): RouteModel[] =>
  [4, 6].flatMap((family) =>
    table.routes[family as 4 | 6].groups.flatMap((group) => [...group.values]),
  )

/** The tables that are there, by the number of their network. */
export const tablesByNetwork = derived((model: Model): ReadonlyMap<number, readonly TableModel[]> =>
  groupBy(
    presentOf(model, 'routeTables').map((index) => model.tables[index]!),
    (table) => table.network,
  ),
)

/** The subnets that look up in a table. */
export const usersOf = ({ model }: CheckContext, { index }: TableModel): readonly SubnetModel[] =>
  usersOfTable(model, index).map((one) => model.subnets[one]!)

const usersOfTable = derived(
  (model: Model, table: number): readonly number[] =>
    (model.networks[model.tables[table]!.network]?.subnets ?? []).filter(
      (one) => model.subnets[one]!.table === table,
    ),
  { same: sameItems },
)

/** A mend that takes routes out of their table, the last entry first. */
export function removeRoutes(table: TableModel, routes: readonly RouteModel[]): FindingMend {
  const entries = [...new Set(routes.map((route) => route.entry))].sort((a, b) => b - a)
  return {
    what: `take ${entries.length === 1 ? 'the route' : `these ${entries.length} routes`} out of ${table.id}`,
    changes: entries.map((entry) => ({
      op: 'remove',
      path: pointer('routeTables', table.id, 'routes', entry),
    })),
  }
}
