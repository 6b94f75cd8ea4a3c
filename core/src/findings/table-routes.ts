import { derived, sameItems } from '../incremental/derived'
import type { Model, TableModel, SubnetModel } from '../model/model'
import type { CheckContext } from './survey'

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
