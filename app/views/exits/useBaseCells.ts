import { MOST_SUBNETS_FORESEEN } from '~/consequences/limits'
import { cellTextOf, differingColumns, type ColumnKey, type Direction } from '~/views/exits/cells'
import type { ShownColumn } from '~/views/exits/columns'

/** By subnet and column: what a cell of a draft says in the draft’s base, where that differs. */
export type BaseCells = ReadonlyMap<string, ReadonlyMap<ColumnKey, string>>

/**
 * The cells of the matrix that a draft alters, by which way traffic leaves, once it is known what
 * follows from the draft that is looked at. Estates that the server foresees are not foreseen for the sake of marks.
 */
export function useBaseCells(direction: () => Direction) {
  const estate = useEstate()
  const foresight = useDraftForesight()
  const { world } = useWorld()
  const isSmall = computed(
    () => (estate.outline?.subnets.length ?? Infinity) <= MOST_SUBNETS_FORESEEN,
  )
  foresight.wantWhile(() => world.value === 'draft' && isSmall.value)
  return computed((): BaseCells => {
    const isShown = world.value === 'draft' && direction() === 'leaving'
    return new Map(
      (isShown ? (foresight.found?.exits ?? []) : []).map((row) => [
        row.subnet,
        new Map(differingColumns(row).map(({ key }) => [key, cellTextOf(row.before, key)])),
      ]),
    )
  })
}

/** What a cell says in the base; null where it is the same, and for members of a column. */
export const baseCellOf = (
  cells: BaseCells,
  subnet: string,
  { key, member }: Pick<ShownColumn, 'key' | 'member'>,
): string | null => (member === null ? (cells.get(subnet)?.get(key) ?? null) : null)
