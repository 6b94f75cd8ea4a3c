import { MOST_SUBNETS_FORESEEN } from '~/consequences/limits'
import { cellOf, COLUMNS, type ColumnKey } from '~/views/exits/cells'
import type { ShownColumn } from '~/views/exits/columns'

/** By subnet and column: what a cell of a draft says in the draft’s base, where that differs. */
export type BaseCells = ReadonlyMap<string, ReadonlyMap<ColumnKey, string>>

/**
 * The cells of the matrix that a draft alters, while the draft is looked at and once it is known
 * what follows from it. Estates that the server foresees are not foreseen for the sake of marks.
 */
export function useBaseCells() {
  const estate = useEstate()
  const foresight = useDraftForesight()
  const { world } = useWorld()
  const isSmall = computed(
    () => (estate.outline?.subnets.length ?? Infinity) <= MOST_SUBNETS_FORESEEN,
  )
  foresight.wantWhile(() => world.value === 'draft' && isSmall.value)
  return computed((): BaseCells => {
    const changed = world.value === 'draft' ? (foresight.found?.exits ?? []) : []
    return new Map(
      changed.map(({ subnet, before, now }) => {
        const differing = COLUMNS.filter(
          ({ key }) => JSON.stringify(before?.[key]) !== JSON.stringify(now?.[key]),
        )
        const saying = (key: ColumnKey): string =>
          before === null ? 'no such subnet' : cellOf(before[key]).text
        return [subnet, new Map(differing.map(({ key }) => [key, saying(key)]))]
      }),
    )
  })
}

/** What a cell says in the base; null where it is the same, and for members of a column. */
export const baseCellOf = (
  cells: BaseCells,
  subnet: string,
  { key, member }: Pick<ShownColumn, 'key' | 'member'>,
): string | null => (member === null ? (cells.get(subnet)?.get(key) ?? null) : null)
