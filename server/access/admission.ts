import { and, eq, sql } from 'drizzle-orm'
import { getRequestHeader, getRouterParams, type H3Event } from 'h3'
import type { Role } from '../../contract/parts'
import type { Needed, Right } from '../../contract/rights'
import { database, type Database } from '../database/client'
import { accounts, estateRoles, sessions, tokens } from '../database/access-schema'
import { estates } from '../database/schema'
import { refusal } from '../http/respond'
import { ACCOUNT, type Account } from './accounts'
import { lesser, mayAs } from './roles'
import { isAlive, noteUse, sessionHash } from './sessions'
import { isValid, noteTokenUse, tokenHash } from './tokens'

/** What a token may at most, and where. */
export interface Scope {
  readonly role: Role
  /** The slug of the one estate it is for. */
  readonly estate: string | null
}

/** Who asks, and by what. */
export interface Asker extends Account {
  /** As it stands in the record. */
  readonly by: string
  readonly sessionId: number | null
  readonly token: Scope | null
  /** What he may do with the estate that the request names. */
  readonly role: Role | null
}

/** What somebody may do with an estate, by the role that he has for it and by what he came in. */
export function roleWith(
  { isServerOwner, token }: Pick<Asker, 'isServerOwner' | 'token'>,
  slug: string | null,
  given: Role | null,
): Role | null {
  const role = isServerOwner ? 'owner' : given
  if (token === null || role === null) return role
  return token.estate === null || token.estate === slug ? lesser(role, token.role) : null
}

const own = (slug: string | null) =>
  and(
    eq(estateRoles.accountId, accounts.id),
    sql`${estateRoles.estateId} = (select ${estates.id} from ${estates} where ${estates.slug} = ${slug})`,
  )

async function bySession(db: Database, hash: string, slug: string | null): Promise<Asker | null> {
  const [row] = await db
    .select({
      ...ACCOUNT,
      sessionId: sessions.id,
      seenAt: sessions.seenAt,
      given: estateRoles.role,
    })
    .from(sessions)
    .innerJoin(accounts, eq(accounts.id, sessions.accountId))
    .leftJoin(estateRoles, own(slug))
    .where(and(eq(sessions.hash, hash), isAlive(), eq(accounts.isDisabled, false)))
  if (!row) return null
  const { seenAt, given, ...account } = row
  await noteUse(db, account.sessionId, seenAt)
  const role = roleWith({ ...account, token: null }, slug, given)
  return { ...account, by: 'session', token: null, role }
}

async function byToken(db: Database, hash: string, slug: string | null): Promise<Asker | null> {
  const [row] = await db
    .select({
      ...ACCOUNT,
      given: estateRoles.role,
      tokenId: tokens.id,
      tokenName: tokens.name,
      most: tokens.role,
      estate: estates.slug,
      usedAt: tokens.usedAt,
    })
    .from(tokens)
    .innerJoin(accounts, eq(accounts.id, tokens.accountId))
    .leftJoin(estates, eq(estates.id, tokens.estateId))
    .leftJoin(estateRoles, own(slug))
    .where(and(eq(tokens.hash, hash), isValid(), eq(accounts.isDisabled, false)))
  if (!row) return null
  const { given, tokenId, tokenName, most, estate, usedAt, ...account } = row
  await noteTokenUse(db, tokenId, usedAt)
  const token = { role: most, estate }
  const role = roleWith({ ...account, token }, slug, given)
  return { ...account, by: `token ${tokenName}`, sessionId: null, token, role }
}

/** Who asks, by the token or else by the session that a request brings; null for a stranger. */
export async function askerOf(event: H3Event): Promise<Asker | null> {
  const db = database()
  const slug = getRouterParams(event, { decode: true }).estate ?? null
  const authorization = getRequestHeader(event, 'authorization')
  if (authorization !== undefined) {
    const token = tokenHash(authorization)
    return token === null ? null : byToken(db, token, slug)
  }
  const session = await sessionHash(db, event)
  return session === null ? null : bySession(db, session, slug)
}

const STRANGER = 'nobody is signed in, or the session or token has ended; sign in first'

/** Whether a token may do what is not about one estate. */
const tokenMay = ({ role, estate }: Scope, needs: Needed, changes: boolean): boolean =>
  needs === 'server-owner'
    ? !changes && estate === null && role === 'owner'
    : !changes || (estate === null && mayAs(role, 'editor'))

/**
 * Refuses who may not use a route. Of an estate that somebody may not even read nothing is told,
 * not even that it is there.
 */
export function admit(asker: Asker | null, { needs, changes }: Right, event: H3Event): void {
  if (needs === 'anyone') return
  if (asker === null) throw refusal(401, 'signed-out', STRANGER)
  const forbidden = (message: string) => refusal(403, 'not-allowed', message)
  if (needs === 'session') {
    if (asker.token) throw forbidden('a token may not do this; sign in with a password for it')
    return
  }
  if (needs === 'account' || needs === 'server-owner') {
    if (needs === 'server-owner' && !asker.isServerOwner)
      throw forbidden('only who owns the server may do this')
    if (asker.token && !tokenMay(asker.token, needs, changes))
      throw forbidden('this token may not do this; its scope is smaller')
    return
  }
  const { estate } = getRouterParams(event, { decode: true })
  if (asker.role === null)
    throw refusal(404, 'no-such-estate', `there is no estate "${estate ?? ''}"`)
  if (!mayAs(asker.role, needs))
    throw forbidden(
      `for this one has to be ${needs === 'owner' ? 'an owner' : 'an editor'} of the estate; ${
        asker.token ? 'this token' : 'your account'
      } is ${asker.role === 'reader' ? 'a reader' : 'an editor'}`,
    )
}
