import {
  and,
  asc,
  count,
  eq,
  gt,
  isNotNull,
  isNull,
  or,
  sql,
  TransactionRollbackError,
} from 'drizzle-orm'
import type { Database } from '../database/client'
import { accounts, invitations, sessions } from '../database/access-schema'
import { hashOf, newSecret } from './secrets'

export interface Account {
  readonly id: number
  readonly login: string
  readonly name: string
  readonly isServerOwner: boolean
}

export const ACCOUNT = {
  id: accounts.id,
  login: accounts.login,
  name: accounts.name,
  isServerOwner: accounts.isServerOwner,
}

/** Links to set a password hold for so long. */
const INVITATION_DAYS = 7
const DAY = 24 * 60 * 60 * 1000

/** Somebody has this login, or signs with this name. */
export class Taken extends Error {}

/** What the database says of a value that is there already (its error codes, class 23). */
async function unlessTaken<T>(login: string | null, name: string, work: () => Promise<T>) {
  try {
    return await work()
  } catch (error) {
    const { code, constraint } = ((error as Error).cause ?? {}) as {
      code?: string
      constraint?: string
    }
    if (code !== '23505') throw error
    throw new Taken(
      constraint === 'accounts_name'
        ? `somebody signs with the name "${name}" already`
        : `there is an account "${login}" already`,
    )
  }
}

export const accountCount = async (db: Database): Promise<number> =>
  (await db.select({ of: count() }).from(accounts).where(eq(accounts.isLocal, false)))[0]!.of

/**
 * Whether somebody owns the server who can come in again: by a password or a provider. Until then
 * the first link and the click stay open, so that nobody is locked out of his own server.
 */
export async function hasOwner(db: Database): Promise<boolean> {
  const [found] = await db
    .select({ id: accounts.id })
    .from(accounts)
    .where(
      and(
        eq(accounts.isServerOwner, true),
        eq(accounts.isDisabled, false),
        or(isNotNull(accounts.passwordHash), isNotNull(accounts.subject)),
      ),
    )
    .limit(1)
  return found !== undefined
}

/** The account that one click makes on the machine of the server, and finds there again. */
export async function localAccount(db: Database): Promise<Account> {
  const local = { login: 'local', name: 'Local owner', isServerOwner: true, isLocal: true }
  await db.insert(accounts).values(local).onConflictDoNothing()
  const [row] = await db.select(ACCOUNT).from(accounts).where(eq(accounts.isLocal, true))
  return row!
}

/** An account with what a password is checked against; null if there is none, or it is disabled. */
export async function accountToSignIn(db: Database, login: string) {
  const [row] = await db
    .select({ ...ACCOUNT, passwordHash: accounts.passwordHash })
    .from(accounts)
    .where(and(eq(accounts.login, login.trim().toLowerCase()), eq(accounts.isDisabled, false)))
  return row ?? null
}

export async function renameAccount(db: Database, id: number, name: string): Promise<Account> {
  const [row] = await unlessTaken(null, name, () =>
    db.update(accounts).set({ name }).where(eq(accounts.id, id)).returning(ACCOUNT),
  )
  return row!
}

/** A link for an account, or for the first owner of the server; one that was there ends. */
async function invite(
  db: Database,
  accountId: number | null,
): Promise<{ secret: string; endsAt: Date }> {
  const secret = newSecret()
  const endsAt = new Date(Date.now() + INVITATION_DAYS * DAY)
  const same =
    accountId === null ? isNull(invitations.accountId) : eq(invitations.accountId, accountId)
  await db.transaction(async (tx) => {
    await tx.delete(invitations).where(same)
    await tx.insert(invitations).values({ hash: hashOf(secret), accountId, endsAt })
  })
  return { secret, endsAt }
}

export const inviteFirstOwner = (db: Database) => invite(db, null)

export async function inviteAccount(
  db: Database,
  { login, name, isServerOwner }: Omit<Account, 'id'>,
): Promise<{ id: number; secret: string; endsAt: Date }> {
  const [row] = await unlessTaken(login, name, () =>
    db.insert(accounts).values({ login, name, isServerOwner }).returning({ id: accounts.id }),
  )
  return { id: row!.id, ...(await invite(db, row!.id)) }
}

/** A new link for somebody who has an account; null if there is none, or it is the local one. */
export async function inviteAgain(db: Database, id: number) {
  const [row] = await db
    .select({ id: accounts.id })
    .from(accounts)
    .where(and(eq(accounts.id, id), eq(accounts.isLocal, false)))
  return row ? { id, ...(await invite(db, id)) } : null
}

const standing = (secret: string) =>
  and(eq(invitations.hash, hashOf(secret)), gt(invitations.endsAt, sql`now()`))

/** Whom a link invites; null where it was used, has ended or never was. */
export async function readInvitation(db: Database, secret: string) {
  const [row] = await db
    .select({
      ...{ endsAt: invitations.endsAt, accountId: invitations.accountId },
      ...{ login: accounts.login, name: accounts.name },
    })
    .from(invitations)
    .leftJoin(accounts, eq(accounts.id, invitations.accountId))
    .where(and(standing(secret), or(isNull(accounts.id), eq(accounts.isDisabled, false))))
  return row ?? null
}

/**
 * Takes an invitation: the account has the name and the password, its sessions end, and the link is
 * used up. Null where the link does not hold. The first owner is made by it. Throws Taken.
 */
export async function takeInvitation(
  db: Database,
  {
    secret,
    login,
    name,
    passwordHash,
  }: {
    secret: string
    login: string
    name: string
    passwordHash: string
  },
): Promise<Account | null> {
  return unlessTaken(login, name, () =>
    db.transaction(async (tx) => {
      const [used] = await tx
        .delete(invitations)
        .where(standing(secret))
        .returning({ accountId: invitations.accountId })
      if (!used) return null
      if (used.accountId === null) {
        if (await hasOwner(tx as unknown as Database)) return null
        const made = { login, name, passwordHash, isServerOwner: true }
        const [row] = await tx.insert(accounts).values(made).returning(ACCOUNT)
        return row!
      }
      await tx.delete(sessions).where(eq(sessions.accountId, used.accountId))
      const [row] = await tx
        .update(accounts)
        .set({ name, passwordHash })
        .where(and(eq(accounts.id, used.accountId), eq(accounts.isDisabled, false)))
        .returning(ACCOUNT)
      return row ?? null
    }),
  )
}

export const setPassword = (db: Database, id: number, passwordHash: string) =>
  db.update(accounts).set({ passwordHash }).where(eq(accounts.id, id))

/** Everybody who may enter, by login. */
export async function listAccounts(db: Database) {
  const rows = await db
    .select({
      ...ACCOUNT,
      createdAt: accounts.createdAt,
      seenAt: sql<string | null>`max(${sessions.seenAt})`,
      isDisabled: accounts.isDisabled,
      isLocal: accounts.isLocal,
      isInvited: sql<boolean>`bool_or(${invitations.hash} is not null)`,
    })
    .from(accounts)
    .leftJoin(sessions, eq(sessions.accountId, accounts.id))
    .leftJoin(invitations, eq(invitations.accountId, accounts.id))
    .groupBy(accounts.id)
    .orderBy(asc(accounts.login))
  return rows.map(({ seenAt, ...row }) => ({
    ...row,
    seenAt: seenAt === null ? null : new Date(seenAt),
  }))
}

/** What becomes of a change of an account: it is made, there is none, or nobody would be left. */
export type AccountChanged = 'changed' | 'unknown' | 'last-owner'

/** Makes somebody an owner of the server or not, lets him in or not; out, his sessions end. */
export async function changeAccount(
  db: Database,
  id: number,
  change: { readonly isServerOwner?: boolean; readonly isDisabled?: boolean },
): Promise<AccountChanged> {
  const changed = async (): Promise<AccountChanged> =>
    db.transaction(async (tx) => {
      // One such change at a time, so that two owners do not take each other's right away.
      await tx.execute(sql`lock table ${accounts} in share row exclusive mode`)
      const [row] = await tx
        .update(accounts)
        .set(change)
        .where(eq(accounts.id, id))
        .returning({ id: accounts.id })
      if (!row) return 'unknown'
      const owns = and(eq(accounts.isServerOwner, true), eq(accounts.isDisabled, false))
      const [left] = await tx.select({ of: count() }).from(accounts).where(owns)
      if (left!.of === 0) tx.rollback()
      if (change.isDisabled) await tx.delete(sessions).where(eq(sessions.accountId, id))
      return 'changed'
    })
  try {
    return await changed()
  } catch (error) {
    if (error instanceof TransactionRollbackError) return 'last-owner'
    throw error
  }
}
