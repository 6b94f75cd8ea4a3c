import { isLikeAnswers, namesOf } from './json'
import type { Row } from './rows'

/**
 * Rows in the order in which they are read: whole ones before those of some branches only, those of
 * failed ends after others, what looks like answers of a stateless list last; within these what
 * concerns the outside first, then by names.
 */
export function inOrder(rows: readonly Row[]): Row[] {
  const keyed = rows.map((row) => ({ row, rank: rankOf(row), text: namesOf(row.from).join() }))
  keyed.sort((a, b) => a.rank - b.rank || (a.text < b.text ? -1 : a.text > b.text ? 1 : 0))
  return keyed.map(({ row }) => row)
}

const rankOf = (row: Row): number =>
  (isLikeAnswers(row) ? 8 : 0) +
  (row.partly ? 4 : 0) +
  (row.failed ? 2 : 0) +
  (isOutside(row) ? 0 : 1)

const isOutside = ({ from, to }: Row): boolean =>
  [...from.keys(), ...to.keys()].some((name) => !name.startsWith('interface:'))
