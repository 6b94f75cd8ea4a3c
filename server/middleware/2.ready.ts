import { refusal } from '../http/respond'
import { databaseReady } from '../database/ready'

/** Holds requests that need the database until migrations have run. */
export default defineEventHandler(async (event) => {
  if (!event.path.startsWith('/api/') || event.path === '/api/health') return
  try {
    await databaseReady()
  } catch {
    throw refusal(
      503,
      'no-database',
      'the database is not there; this is tried again with the next request',
    )
  }
})
