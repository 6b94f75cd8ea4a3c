import { pointer } from '../changes/index'
import { derivedAndCompared, sameItems } from '../model/derived'
import type { TableModel, RouteModel, SubnetModel } from '../model/model'
import type { FindingMend } from './finding'
import type { CheckContext } from './survey'

/** Every route of a table, both families. */
export const routesOf = (table: TableModel): RouteModel[] =>
  [4, 6].flatMap((family) =>
    table.routes[family as 4 | 6].groups.flatMap((group) => [...group.values]),
  )

/** The subnets that look up in a table. */
export function usersOf({ model }: CheckContext, { index }: TableModel): readonly SubnetModel[] {
  const numbers = derivedAndCompared(
    model,
    `users of table ${index}`,
    () =>
      (model.networks[model.tables[index]!.network]?.subnets ?? []).filter(
        (one) => model.subnets[one]!.table === index,
      ),
    sameItems,
  )
  return numbers.map((one) => model.subnets[one]!)
}

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
