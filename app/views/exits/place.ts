import type { ColumnKey } from './cells'

/** A cell of the matrix: a subnet, and a column or one of its members. */
export interface MatrixPlace {
  readonly subnet: string
  readonly column: ColumnKey
  readonly member: string | null
}

/**
 * A place as it stands in the address of the page; the column and its member have no space in them,
 * a subnet neither.
 */
export const placeText = ({ subnet, column, member }: MatrixPlace): string =>
  [subnet, column, ...(member === null ? [] : [member])].join(' ')

export function readPlace(text: unknown): MatrixPlace | null {
  if (typeof text !== 'string' || text === '') return null
  const [subnet = '', column = 'internet', member = null] = text.split(' ')
  return { subnet, column: column as ColumnKey, member }
}
