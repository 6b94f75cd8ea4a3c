import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { getTableColumns, getTableName } from 'drizzle-orm'
import type { PgTable } from 'drizzle-orm/pg-core'
import type pg from 'pg'
import { from as copyFrom } from 'pg-copy-streams'

/** So many rows go to the database as one piece. */
const ROWS_AT_ONCE = 200

/**
 * Puts rows into a table by the database's bulk protocol, COPY, which takes a fraction of the time
 * of inserts: nothing is parsed as a statement. Part of the client's transaction, if it is in one.
 * The client can do nothing else meanwhile, so rows must not be read by it.
 */
export async function copyRows<T extends PgTable>(
  client: pg.ClientBase,
  table: T,
  rows: Iterable<T['$inferInsert']>,
): Promise<void> {
  const names = Object.keys(getTableColumns(table))
  const columns = names.map(
    (name) => `"${name.replace(/\p{Lu}/gu, (letter) => `_${letter.toLowerCase()}`)}"`,
  )
  function* pieces(): Generator<string> {
    let lines: string[] = []
    for (const row of rows) {
      lines.push(
        `${names.map((name) => field((row as Record<string, unknown>)[name])).join('\t')}\n`,
      )
      if (lines.length < ROWS_AT_ONCE) continue
      yield lines.join('')
      lines = []
    }
    yield lines.join('')
  }
  await pipeline(
    Readable.from(pieces()),
    client.query(copyFrom(`copy "${getTableName(table)}" (${columns.join(', ')}) from stdin`)),
  )
}

const ESCAPES: Record<string, string> = { '\\': '\\\\', '\n': '\\n', '\r': '\\r', '\t': '\\t' }

/** A value in the text format of COPY: https://www.postgresql.org/docs/current/sql-copy.html */
const field = (value: unknown): string => {
  if (value === null || value === undefined) return '\\N'
  return typeof value === 'string'
    ? value.replace(/[\\\n\r\t]/g, (one) => ESCAPES[one]!)
    : String(value)
}
