import { drizzle } from 'drizzle-orm/node-postgres'
import pg from 'pg'
import type { Database } from './client'

/** For workers: nothing stays open while everything is computed, so a database that is restarted meanwhile is found again. */
export async function connected<T>(connectionString: string, work: (db: Database) => Promise<T>): Promise<T> {
  const pool = new pg.Pool({ connectionString, max: 1 })
  try {
    return await work(drizzle(pool, { casing: 'snake_case' }))
  } finally {
    await pool.end()
  }
}
