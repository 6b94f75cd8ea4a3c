import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres'
import pg from 'pg'
import { config } from '../config'
import { log } from '../log'

export type Database = NodePgDatabase

let pool: pg.Pool | undefined

export function connectionString(): string {
  return config().DATABASE_URL
}

/** The one pool of this process, made when it is first needed. */
export function connectionPool(): pg.Pool {
  if (!pool) {
    pool = new pg.Pool({
      connectionString: connectionString(),
      max: 8,
      connectionTimeoutMillis: 5_000,
    })
    // Without a listener, a database that is stopped while a connection idles would end the server.
    pool.on('error', (error) => log.warn({ err: error }, 'a database connection was lost'))
  }
  return pool
}

export const database = (): Database => drizzle(connectionPool(), { casing: 'snake_case' })

export async function closeDatabase(): Promise<void> {
  await pool?.end()
  pool = undefined
}
