import { exitsTable } from '~/views/exits/table'
import { asCsv, asMarkdown } from '~/tables/table-text'

const table = {
  columns: ['a', 'b|c'],
  rows: [
    ['x', 'one\ntwo'],
    ['=1+1', 'say "so", then'],
  ],
}

test('a table as CSV quotes what it must, and lets no spreadsheet reckon', () => {
  expect(asCsv(table)).toBe('a,b|c\nx,"one\ntwo"\n\'=1+1,"say ""so"", then"\n')
})

test('a table in Markdown keeps its cells apart', () => {
  expect(asMarkdown(table)).toBe(
    '| a | b\\|c |\n|---|---|\n| x | one; two |\n| =1+1 | say "so", then |\n',
  )
})

test('the matrix without rows is a table without rows', () => {
  expect(exitsTable([]).rows).toEqual([])
})
