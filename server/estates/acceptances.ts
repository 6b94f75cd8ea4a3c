import { and, eq } from 'drizzle-orm'
import type { Database } from '../database/client'
import { acceptances, estates } from '../database/schema'

export interface Acceptance {
  readonly reason: string
  readonly author: string
  /** The last day on which it holds, as `2026-12-31`; null for as long as it is not withdrawn. */
  readonly until: string | null
}

const estateId = async (db: Database, slug: string): Promise<number | null> => {
  const [row] = await db.select({ id: estates.id }).from(estates).where(eq(estates.slug, slug))
  return row?.id ?? null
}

/**
 * Accepts a finding in every revision of an estate, in place of what was said before. False if
 * there is no such estate.
 */
export async function acceptFinding(
  db: Database,
  slug: string,
  fingerprint: string,
  acceptance: Acceptance,
): Promise<boolean> {
  const id = await estateId(db, slug)
  if (id === null) return false
  const said = { ...acceptance, createdAt: new Date() }
  await db
    .insert(acceptances)
    .values({ estateId: id, fingerprint, ...said })
    .onConflictDoUpdate({ target: [acceptances.estateId, acceptances.fingerprint], set: said })
  return true
}

/** Takes an acceptance back. False if there was none. */
export async function takeBackAcceptance(
  db: Database,
  slug: string,
  fingerprint: string,
): Promise<boolean> {
  const id = await estateId(db, slug)
  if (id === null) return false
  const gone = await db
    .delete(acceptances)
    .where(and(eq(acceptances.estateId, id), eq(acceptances.fingerprint, fingerprint)))
    .returning({ fingerprint: acceptances.fingerprint })
  return gone.length > 0
}
