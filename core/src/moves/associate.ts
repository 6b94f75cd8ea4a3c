import { pointer } from '../changes/index'
import type { Model } from '../model/model'
import { listed, moved, notMoved, type Moved, type NotMoved } from './move'
import { associate, noTables, unknownSubnets } from '../steering/tables'

export interface AssociateMove {
  readonly subnets: readonly string[]
  /** A table that is there, or the id of one to make. */
  readonly table: string
  /** For one to make: the table whose routes it begins with; none for an empty one. */
  readonly copyOf?: string | undefined
}

/** Associates many subnets with a table in one act; makes the table where it is not there. */
export function associateSubnets(
  model: Model,
  { subnets, table, copyOf }: AssociateMove,
): Moved | NotMoved {
  const { estate } = model
  const missing = unknownSubnets(model, subnets)
  if (missing.length > 0) return notMoved(`there is no subnet ${listed(missing)} in this estate`)
  const networks = [...new Set(subnets.map((id) => estate.subnets.get(id)!.network))]
  if (networks.length > 1)
    return notMoved(
      `these subnets are in ${listed(networks)}; a table belongs to one network, so take each by itself`,
    )
  const under = noTables()
  const isThere = estate.routeTables.has(table)
  if (!isThere) {
    const { title: _, note: __, ...own } = estate.routeTables.get(copyOf ?? '') ?? { routes: [] }
    under.operations.push({
      op: 'add',
      path: pointer('routeTables', table),
      value: { ...own, network: networks[0] },
    })
  }
  for (const subnet of subnets) associate(model, under, subnet, table)
  if (under.operations.length === 0) return notMoved(`all of them look up ${table} already`)
  const clause = `associate ${listed(subnets)} with ${table}`
  return moved(isThere ? clause : `make the table ${table}, and ${clause}`, under.operations)
}
