import { and, desc, eq, gt, sql } from 'drizzle-orm'
import type { Role } from '../../contract/parts'
import type { Database } from '../database/client'
import { tokens } from '../database/access-schema'
import { estates } from '../database/schema'
import { hashOf, newSecret } from './secrets'

/** So that a token is known for one wherever it turns up. */
const PREFIX = 'salt-trail-'
const DAY = 24 * 60 * 60 * 1000
const NOTED_EVERY = 60_000

const LISTED = {
  id: tokens.id,
  name: tokens.name,
  role: tokens.role,
  estate: estates.slug,
  createdAt: tokens.createdAt,
  endsAt: tokens.endsAt,
  usedAt: tokens.usedAt,
}

/** The hash of the token that an Authorization header brings (RFC 6750), or null. */
export function tokenHash(header: string | undefined): string | null {
  const token = /^Bearer +(\S+)$/i.exec(header ?? '')?.[1]
  return token?.startsWith(PREFIX) ? hashOf(token) : null
}

export const isValid = () => gt(tokens.endsAt, sql`now()`)

export async function makeToken(
  db: Database,
  accountId: number,
  {
    name,
    role,
    estateId,
    days,
  }: {
    name: string
    role: Role
    estateId: number | null
    days: number
  },
) {
  const token = `${PREFIX}${newSecret()}`
  const endsAt = new Date(Date.now() + days * DAY)
  const [row] = await db
    .insert(tokens)
    .values({ hash: hashOf(token), accountId, name, role, estateId, endsAt })
    .returning({ id: tokens.id, createdAt: tokens.createdAt })
  return { token, id: row!.id, name, role, createdAt: row!.createdAt, endsAt, usedAt: null }
}

/** The tokens of an account that have not ended. */
export const listTokens = (db: Database, accountId: number) =>
  db
    .select(LISTED)
    .from(tokens)
    .leftJoin(estates, eq(estates.id, tokens.estateId))
    .where(and(eq(tokens.accountId, accountId), isValid()))
    .orderBy(desc(tokens.createdAt))

export async function endToken(db: Database, accountId: number, id: number): Promise<number> {
  const ended = await db
    .delete(tokens)
    .where(and(eq(tokens.accountId, accountId), eq(tokens.id, id)))
    .returning({ id: tokens.id })
  return ended.length
}

export async function noteTokenUse(db: Database, id: number, usedAt: Date | null): Promise<void> {
  if (usedAt !== null && Date.now() - usedAt.getTime() < NOTED_EVERY) return
  await db
    .update(tokens)
    .set({ usedAt: sql`now()` })
    .where(eq(tokens.id, id))
}
