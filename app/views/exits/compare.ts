import { passedText, rangesText, seenText } from './way-words'
import type { Cell, ColumnKey } from './cells'

/** What two rows have in one column, where they differ. */
export interface Difference {
  readonly title: string
  readonly a: readonly string[]
  readonly b: readonly string[]
}

const lines = (cell: Cell, column: ColumnKey): string[] =>
  cell.ways.map((way) => {
    const seen = seenText(way)
    return `${rangesText(way, true, column)}: ${passedText(way)}${seen ? `, seen as ${seen}` : ''}`
  })

/** Only what differs between two rows: of each column the ways that the other does not have. */
export function differences(
  columns: readonly {
    readonly key: ColumnKey
    readonly title: string
    readonly a: Cell
    readonly b: Cell
  }[],
): Difference[] {
  return columns.flatMap(({ key, title, a, b }) => {
    const [own, other] = [lines(a, key), lines(b, key)]
    const difference = {
      title,
      a: own.filter((line) => !other.includes(line)),
      b: other.filter((line) => !own.includes(line)),
    }
    return difference.a.length + difference.b.length > 0 ? [difference] : []
  })
}
