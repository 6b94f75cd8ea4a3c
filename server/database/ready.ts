import { analyseSaved } from '../analysis/saved'
import { DEMO, demoNumbers, loadDemoOnce } from '../estates/demo'
import { config } from '../config'
import { log } from '../log'
import { database } from './client'
import { migrateDatabase } from './migrate'

let preparing: Promise<void> | undefined

async function prepare(): Promise<void> {
  await migrateDatabase()
  if (config().SALT_TRAIL_DEMO === 'no') return
  await loadDemoOnce(database())
  for (const number of await demoNumbers(database()))
    await analyseSaved(database(), { slug: DEMO, number })
}

/**
 * Resolves once migrations have run and the demo is loaded. A failure is tried again by the next
 * request.
 */
export function databaseReady(): Promise<void> {
  preparing ??= prepare().catch((error: unknown) => {
    preparing = undefined
    log.error({ err: error }, 'the database could not be prepared')
    throw error
  })
  return preparing
}
