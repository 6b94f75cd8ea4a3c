import { stringify } from 'csv-stringify/browser/esm/sync'

/** A table as it can be taken elsewhere. */
export interface TableText {
  readonly columns: readonly string[]
  readonly rows: readonly (readonly string[])[]
}

/** RFC 4180. What a spreadsheet would take for a formula is kept as text. */
export const asCsv = ({ columns, rows }: TableText): string =>
  stringify([[...columns], ...rows.map((row) => [...row])], { escape_formulas: true })

const cell = (text: string): string => text.replace(/\|/g, '\\|').replace(/\s*\n\s*/g, '; ')

/** A table in Markdown. */
export function asMarkdown({ columns, rows }: TableText): string {
  const line = (cells: readonly string[]): string => `| ${cells.map(cell).join(' | ')} |\n`
  return line(columns) + `|${columns.map(() => '---').join('|')}|\n` + rows.map(line).join('')
}
