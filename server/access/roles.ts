import { and, asc, count, eq } from 'drizzle-orm'
import { ROLES, type Role } from '../../contract/parts'
import type { Database } from '../database/client'
import { accounts, estateRoles } from '../database/access-schema'
import { estates } from '../database/schema'

/** Whether a role may do what another one may. */
export const mayAs = (has: Role | null, needs: Role): boolean =>
  has !== null && ROLES.indexOf(has) >= ROLES.indexOf(needs)

/** The lesser of two roles: what a token may, of what its account may. */
export const lesser = (one: Role, other: Role): Role => (mayAs(one, other) ? other : one)

export const giveRole = (
  db: Database,
  estateId: number,
  accountId: number,
  role: Role,
): Promise<unknown> =>
  db
    .insert(estateRoles)
    .values({ estateId, accountId, role })
    .onConflictDoUpdate({ target: [estateRoles.estateId, estateRoles.accountId], set: { role } })

export const peopleOf = (db: Database, slug: string) =>
  db
    .select({ login: accounts.login, name: accounts.name, role: estateRoles.role })
    .from(estateRoles)
    .innerJoin(accounts, eq(accounts.id, estateRoles.accountId))
    .innerJoin(estates, eq(estates.id, estateRoles.estateId))
    .where(eq(estates.slug, slug))
    .orderBy(asc(accounts.login))

/** What becomes of a change of somebody's role. */
export type RoleChanged = 'changed' | 'no-such-account' | 'no-role' | 'last-owner'

/**
 * Gives somebody a role for an estate, or takes it away where it is null. An estate keeps an owner
 * of its own, if it has one.
 */
export async function changeRole(
  db: Database,
  slug: string,
  login: string,
  role: Role | null,
): Promise<RoleChanged> {
  return db.transaction(async (tx) => {
    // One such change of an estate at a time, so that two owners do not leave it both.
    const [estate] = await tx
      .select({ id: estates.id })
      .from(estates)
      .where(eq(estates.slug, slug))
      .for('update')
    const [person] = await tx
      .select({ id: accounts.id })
      .from(accounts)
      .where(eq(accounts.login, login.trim().toLowerCase()))
    if (!estate || !person) return 'no-such-account'
    const own = and(eq(estateRoles.estateId, estate.id), eq(estateRoles.accountId, person.id))
    const [had] = await tx.select({ role: estateRoles.role }).from(estateRoles).where(own)
    if (had?.role === 'owner' && role !== 'owner') {
      const others = and(eq(estateRoles.estateId, estate.id), eq(estateRoles.role, 'owner'))
      const [owners] = await tx.select({ of: count() }).from(estateRoles).where(others)
      if (owners!.of === 1) return 'last-owner'
    }
    if (role === null) {
      if (!had) return 'no-role'
      await tx.delete(estateRoles).where(own)
    } else await giveRole(tx as unknown as Database, estate.id, person.id, role)
    return 'changed'
  })
}

/** What an account may do with each estate it has a role for, by slug. */
export async function rolesOf(db: Database, accountId: number): Promise<ReadonlyMap<string, Role>> {
  const rows = await db
    .select({ slug: estates.slug, role: estateRoles.role })
    .from(estateRoles)
    .innerJoin(estates, eq(estates.id, estateRoles.estateId))
    .where(eq(estateRoles.accountId, accountId))
  return new Map(rows.map(({ slug, role }) => [slug, role]))
}
