import { and, desc, eq, gt, lt, ne, sql, type SQL } from 'drizzle-orm'
import {
  clearSession,
  getCookie,
  getRequestHeader,
  getSession,
  updateSession,
  type H3Event,
  type SessionConfig,
} from 'h3'
import { config } from '../config'
import type { Database } from '../database/client'
import { sessions } from '../database/access-schema'
import { hashOf, newSecret, serverSecret } from './secrets'

const COOKIE = 'salt-trail'
const HOUR = 60 * 60 * 1000
/** How often it is noted that a session is in use, in milliseconds. */
const NOTED_EVERY = 60_000

/** The cookie is sealed, no script reads it, and no page elsewhere sends it along. */
async function cookie(db: Database): Promise<SessionConfig> {
  return {
    name: COOKIE,
    password: await serverSecret(db, 'cookies'),
    sessionHeader: false,
    maxAge: config().SALT_TRAIL_SESSION_HOURS * 3600,
    cookie: {
      httpOnly: true,
      sameSite: 'strict',
      secure: config().SALT_TRAIL_ADDRESS?.startsWith('https:') ?? false,
      path: '/',
    },
  }
}

/** The hash of the session that a request brings, or null. */
export async function sessionHash(db: Database, event: H3Event): Promise<string | null> {
  if (getCookie(event, COOKIE) === undefined) return null
  const { data } = await getSession<{ secret?: string }>(event, await cookie(db))
  return typeof data.secret === 'string' ? hashOf(data.secret) : null
}

/** Begins a session for an account; one that the browser had ends. */
export async function beginSession(db: Database, event: H3Event, accountId: number) {
  const had = await sessionHash(db, event)
  if (had !== null) await db.delete(sessions).where(eq(sessions.hash, had))
  const secret = newSecret()
  const agent = (getRequestHeader(event, 'user-agent') ?? '').slice(0, 300).replaceAll('\0', '')
  const endsAt = new Date(Date.now() + config().SALT_TRAIL_SESSION_HOURS * HOUR)
  await db.delete(sessions).where(lt(sessions.endsAt, sql`now()`))
  await db.insert(sessions).values({ hash: hashOf(secret), accountId, endsAt, agent })
  const sealed = await cookie(db)
  await clearSession(event, sealed)
  await updateSession(event, sealed, { secret })
}

/** Ends the session that a request brings. */
export async function endOwnSession(db: Database, event: H3Event, id: number): Promise<void> {
  await db.delete(sessions).where(eq(sessions.id, id))
  await clearSession(event, await cookie(db))
}

/** Sessions that have not ended, nor been idle for too long. */
export const isAlive = (): SQL =>
  and(
    gt(sessions.endsAt, sql`now()`),
    gt(
      sessions.seenAt,
      sql`now() - make_interval(secs => ${config().SALT_TRAIL_IDLE_HOURS * 3600})`,
    ),
  )!

export async function noteUse(db: Database, id: number, seenAt: Date): Promise<void> {
  if (Date.now() - seenAt.getTime() < NOTED_EVERY) return
  await db
    .update(sessions)
    .set({ seenAt: sql`now()` })
    .where(eq(sessions.id, id))
}

export const listSessions = (db: Database, accountId: number) =>
  db
    .select({
      id: sessions.id,
      createdAt: sessions.createdAt,
      seenAt: sessions.seenAt,
      endsAt: sessions.endsAt,
      agent: sessions.agent,
    })
    .from(sessions)
    .where(and(eq(sessions.accountId, accountId), isAlive()))
    .orderBy(desc(sessions.seenAt))

/** Ends one session of an account, or all of them but one; says how many. */
export async function endSessions(
  db: Database,
  accountId: number,
  which: { readonly id: number } | { readonly butId: number | null },
): Promise<number> {
  const chosen =
    'id' in which
      ? eq(sessions.id, which.id)
      : which.butId === null
        ? undefined
        : ne(sessions.id, which.butId)
  const ended = await db
    .delete(sessions)
    .where(and(eq(sessions.accountId, accountId), chosen))
    .returning({ id: sessions.id })
  return ended.length
}
