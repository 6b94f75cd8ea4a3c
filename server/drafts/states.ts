import { and, desc, eq, isNotNull, lt } from 'drizzle-orm'
import { writeJson, type Estate } from '@salt-trail/core'
import type { Database } from '../database/client'
import { revisions } from '../database/schema'
import { noteChecked } from '../estates/store'
import type { DraftInfo } from './store'

/** The kept state of a draft; null where nobody looked at it, or it was dropped since. */
export async function findState(
  db: Pick<Database, 'select'>,
  draftId: number,
  version: number,
): Promise<number | null> {
  const [row] = await db
    .select({ id: revisions.id })
    .from(revisions)
    .where(and(eq(revisions.draftId, draftId), eq(revisions.draftVersion, version)))
  return row?.id ?? null
}

/**
 * Keeps a state of a draft like a revision, so that it is analysed and looked at like one. Two who
 * ask for the same one share it.
 */
export async function keepState(
  db: Database,
  estateId: number,
  draft: DraftInfo,
  version: number,
  estate: Estate,
): Promise<number> {
  return db.transaction(async (tx) => {
    const [made] = await tx
      .insert(revisions)
      .values({
        estateId,
        number: draft.baseNumber,
        author: draft.author,
        origin: 'draft',
        note: draft.name,
        draftId: draft.id,
        draftVersion: version,
        document: writeJson(estate),
      })
      .onConflictDoNothing()
      .returning({ id: revisions.id })
    if (made) {
      await noteChecked(tx, made.id)
      return made.id
    }
    return (await findState(tx, draft.id, version))!
  })
}

/** The states of a draft before a version, the newest first, by their ids. */
export async function olderStates(
  db: Database,
  draftId: number,
  version: number,
): Promise<readonly number[]> {
  const rows = await db
    .select({ id: revisions.id })
    .from(revisions)
    .where(and(eq(revisions.draftId, draftId), lt(revisions.draftVersion, version)))
    .orderBy(desc(revisions.draftVersion))
  return rows.map(({ id }) => id)
}

export const dropState = (db: Database, id: number) =>
  db.delete(revisions).where(and(eq(revisions.id, id), isNotNull(revisions.draftId)))
