import { analyseSaved } from '../analysis/saved'
import { DEMO, demoNumbers, loadDemoOnce } from '../estates/demo'
import { hasOwner, inviteFirstOwner } from '../access/accounts'
import { invitationLink } from '../access/links'
import { config } from '../config'
import { log } from '../log'
import { database } from './client'
import { migrateDatabase } from './migrate'

let preparing: Promise<void> | undefined

async function prepare(): Promise<void> {
  await migrateDatabase()
  await tellFirstLink()
  if (config().SALT_TRAIL_DEMO === 'no') return
  await loadDemoOnce(database())
  for (const number of await demoNumbers(database()))
    await analyseSaved(database(), { slug: DEMO, number })
}

/**
 * While no owner of the server has an account, a link that makes the first owner is printed at each start, for who
 * sees the console; the one before ends.
 */
async function tellFirstLink(): Promise<void> {
  if (await hasOwner(database())) return
  const { secret, endsAt } = await inviteFirstOwner(database())
  const until = endsAt.toISOString().slice(0, 10)
  process.stderr.write(
    `No owner of the server has an account yet. This link makes the owner of the server, once, until ${until}:\n` +
      `  ${invitationLink(secret)}\n`,
  )
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
