import { drizzle } from 'drizzle-orm/node-postgres'
import { migrate } from 'drizzle-orm/node-postgres/migrator'
import { folderOf } from '../files'
import { connectionPool } from './client'

/** Any number that nothing else locks on. */
const LOCK = 7_251_001

/**
 * Brings the database to this version's form; of several servers that start at once, one does it
 * and the others wait.
 */
export async function migrateDatabase(): Promise<void> {
  const client = await connectionPool().connect()
  try {
    await client.query('select pg_advisory_lock($1)', [LOCK])
    try {
      await migrate(drizzle(client, { casing: 'snake_case' }), {
        migrationsFolder: folderOf('migrations'),
      })
    } finally {
      await client.query('select pg_advisory_unlock($1)', [LOCK])
    }
  } finally {
    client.release()
  }
}
