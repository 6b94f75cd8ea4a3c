import { drizzle } from 'drizzle-orm/node-postgres'
import pg from 'pg'
import type { Database } from './client'

/**
 * For workers: nothing stays open while everything is computed, so a database that is restarted
 * meanwhile is found again.
 */
export async function withClient<T>(
  connectionString: string,
  work: (client: pg.Client) => Promise<T>,
): Promise<T> {
  const client = new pg.Client({ connectionString })
  // What is lost in the middle is told by the query that it was to answer.
  client.on('error', () => undefined)
  await client.connect()
  try {
    return await work(client)
  } finally {
    await client.end()
  }
}

/** The same for those who need no more than queries; several at a time wait for each other. */
export const connected = <T>(
  connectionString: string,
  work: (db: Database) => Promise<T>,
): Promise<T> =>
  withClient(connectionString, (client) => work(drizzle(client, { casing: 'snake_case' })))
