import type { H3Event } from 'h3'
import { config } from '../config'
import type { Database } from '../database/client'
import { isLoopback } from '../hosts'
import { refusal } from '../http/respond'
import { tell } from '../http/route'
import { accountCount, hasOwner, localAccount, type Account } from './accounts'
import { beginSession } from './sessions'

/** The name of the sign-in provider on screen; null where none is set. */
const providerName = (): string | null =>
  config().SALT_TRAIL_PROVIDER === undefined ? null : config().SALT_TRAIL_PROVIDER_NAME

/** Where a request comes from, as far as that is known. */
export const addressOf = (event: H3Event): string => event.node.req.socket.remoteAddress ?? ''

/** Whether a request comes from the machine of the server, and through nothing that passes it on. */
const isFromHere = (event: H3Event): boolean =>
  isLoopback(addressOf(event)) &&
  !['forwarded', 'x-forwarded-for', 'via'].some((name) => name in event.node.req.headers)

/**
 * Whether one click enters: on the machine of the server, where that is set, and only until somebody
 * owns the server who comes in by a password or a provider.
 */
export const mayEnterLocally = async (db: Database, event: H3Event): Promise<boolean> =>
  config().SALT_TRAIL_LOCAL_ENTRY === 'yes' && isFromHere(event) && !(await hasOwner(db))

/** What is said of who is asking, and of how one may enter. */
export async function sessionOf(db: Database, event: H3Event, account: Account | null) {
  const { id, login, name, isServerOwner } = account ?? {}
  return {
    account: account && { id, login, name, isServerOwner },
    entries: {
      password: (await accountCount(db)) > 0,
      local: await mayEnterLocally(db, event),
      provider: providerName(),
    },
  }
}

/** Lets somebody in: he has a session from now on. */
export async function enter(db: Database, event: H3Event, account: Account, how: string) {
  await beginSession(db, event, account.id)
  tell(event, {
    who: `${account.name} (${account.login})`,
    accountId: account.id,
    about: `signed in ${how}`,
  })
  return sessionOf(db, event, account)
}

/** The account that one click enters, or a refusal. */
export async function enterLocally(db: Database, event: H3Event) {
  if (!(await mayEnterLocally(db, event)))
    throw refusal(
      403,
      'not-allowed',
      'one click enters on the machine of the server alone, and only until an owner of the server has an account',
    )
  return enter(db, event, await localAccount(db), 'by one click')
}
