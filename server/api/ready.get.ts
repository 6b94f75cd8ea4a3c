import { sql } from 'drizzle-orm'
import { database } from '../database/client'
import { openRoute } from '../http/route'

/** The middleware has waited for the database to be prepared; this asks whether it is there now. */
export default openRoute('/api/ready', 'get', async () => {
  await database().execute(sql`select 1`)
  return { state: 'ready' }
})
