import { entriesOf } from '../address/prefix-table'
import { prefixOf } from '../address/prefix'
import { type RangeSet, rangeSetOf, sameRanges } from '../address/ranges'
import type { MapSection } from '../format'
import { derived, sameItems } from '../incremental/derived'
import type { Model, RouteModel, TableModel } from './model'
import { groupBy } from './sections'

/** The ranges of something outside. */
export const rangesOf = derived(
  (model: Model, section: 'sites' | 'services' | 'parties', id: string): RangeSet =>
    rangeSetOf((model.estate[section].get(id)?.ranges ?? []).map(prefixOf)),
  { same: sameRanges },
)

/** The ids of a section’s objects that are there, in their order. */
export const idsOf = derived(
  (model: Model, section: MapSection): readonly string[] => [...model.index[section].keys()],
  { same: sameItems },
)

/** The numbers of a section’s objects that are there, in their order. */
export const presentOf = derived(
  (model: Model, section: MapSection): readonly number[] => [...model.index[section].values()],
  { same: sameItems },
)

/** Every route of a table, both families. */
export const routesOf = (table: TableModel): RouteModel[] =>
  entriesOf(table.routes).map(({ value }) => value)

/** The tables that are there, by the number of their network. */
export const tablesByNetwork = derived((model: Model): ReadonlyMap<number, readonly TableModel[]> =>
  groupBy(
    presentOf(model, 'routeTables').map((index) => model.tables[index]!),
    (table) => table.network,
  ),
)
