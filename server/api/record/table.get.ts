import { stringify } from 'csv-stringify/sync'
import { recordQuery } from '../../../contract/access'
import { readRecord } from '../../access/record'
import { database } from '../../database/client'
import { query } from '../../http/respond'
import { route } from '../../http/route'

const COLUMNS = ['id', 'at', 'who', 'by', 'what', 'estate', 'about', 'status', 'request'] as const
const AT_ONCE = 5_000
/** More entries are asked for by days. */
const MOST = 100_000

/** RFC 4180; what a spreadsheet would take for a formula is kept as text. */
export default route('/api/record/table', 'get', async (event) => {
  const wanted = query(event, recordQuery)
  const texts = [stringify([[...COLUMNS]])]
  for (let from = wanted.from; from < wanted.from + MOST; from += AT_ONCE) {
    const { total, entries } = await readRecord(database(), { ...wanted, from, count: AT_ONCE })
    const rows = entries.map((entry) => COLUMNS.map((column) => textOf(entry[column])))
    texts.push(stringify(rows, { escape_formulas: true }))
    if (from + AT_ONCE >= total) break
  }
  setResponseHeaders(event, {
    'content-type': 'text/csv; charset=utf-8; header=present',
    'content-disposition': 'attachment; filename="salt-trail-record.csv"',
  })
  return texts.join('')
})

const textOf = (value: string | number | Date | null): string =>
  value instanceof Date ? value.toISOString() : String(value ?? '')
