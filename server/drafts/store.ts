import { and, asc, desc, eq, sql } from 'drizzle-orm'
import { changesOf, type Change, type DraftConflict, type DraftEntry } from '@salt-trail/core'
import type { Database } from '../database/client'
import { draftEntries, drafts, draftTexts, estates } from '../database/schema'
import { findRevision } from '../estates/store'

type Row = typeof drafts.$inferSelect
/** A connection, within a transaction or without. */
export type Connection = Pick<Database, 'select' | 'insert' | 'update' | 'delete'>

/** A question that is answered again after each change of a draft. */
export interface PinnedQuestion {
  readonly from: string
  readonly to: string
  readonly over: string
}

/** A draft without its log. */
export interface DraftInfo extends Omit<Row, 'conflicts' | 'pinned' | 'estateId'> {
  readonly conflicts: readonly DraftConflict[]
  readonly pinned: readonly PinnedQuestion[]
}

export interface LoggedEntry extends DraftEntry {
  readonly createdAt: Date
}

export interface NewDraft {
  readonly name: string
  readonly author: string
  readonly note: string
  readonly kind: 'change' | 'outage'
}

const infoOf = ({ estateId: _, conflicts, pinned, ...row }: Row): DraftInfo => ({
  ...row,
  conflicts: JSON.parse(conflicts) as DraftConflict[],
  pinned: JSON.parse(pinned) as PinnedQuestion[],
})

/** What is written to a draft whatever is done to it. */
const written = () => ({ changedAt: new Date(), edition: sql`${drafts.edition} + 1` })

/** The drafts of an estate, the one changed last first, each with how many of its changes stand. */
export async function listDrafts(
  db: Database,
  slug: string,
): Promise<{ readonly draft: DraftInfo; readonly changes: number }[]> {
  const own = and(eq(estates.slug, slug), eq(drafts.estateId, estates.id))
  const rows = await db
    .select({ draft: drafts })
    .from(drafts)
    .innerJoin(estates, own)
    .orderBy(desc(drafts.changedAt), desc(drafts.id))
  const { draftId, number, undoes } = draftEntries
  const entries = await db
    .select({ draftId, number, undoes })
    .from(draftEntries)
    .innerJoin(drafts, eq(draftId, drafts.id))
    .innerJoin(estates, own)
    .orderBy(asc(number))
  const logs = new Map(rows.map(({ draft }) => [draft.id, [] as typeof entries]))
  for (const entry of entries) logs.get(entry.draftId)?.push(entry)
  return rows.map(({ draft }) => ({
    draft: infoOf(draft),
    changes: changesOf(logs.get(draft.id)!).filter(({ stands }) => stands).length,
  }))
}

/** A draft of an estate; null where there is none of that id. */
export async function findDraft(db: Database, slug: string, id: number): Promise<DraftInfo | null> {
  const [row] = await db
    .select({ draft: drafts })
    .from(drafts)
    .innerJoin(estates, eq(drafts.estateId, estates.id))
    .where(and(eq(estates.slug, slug), eq(drafts.id, id)))
  return row ? infoOf(row.draft) : null
}

/** Starts a draft in a revision; null where there is no such revision. */
export async function createDraft(
  db: Database,
  slug: string,
  base: number | null,
  draft: NewDraft,
): Promise<number | null> {
  const revision = await findRevision(db, slug, base)
  if (!revision) return null
  const [estate] = await db.select({ id: estates.id }).from(estates).where(eq(estates.slug, slug))
  const [row] = await db
    .insert(drafts)
    .values({
      ...draft,
      estateId: estate!.id,
      baseId: revision.id,
      baseNumber: revision.number,
    })
    .returning({ id: drafts.id })
  return row!.id
}

/** A draft, kept for this transaction alone; null where it is gone. */
export async function lockDraft(tx: Connection, id: number): Promise<DraftInfo | null> {
  const [row] = await tx.select().from(drafts).where(eq(drafts.id, id)).for('update')
  return row ? infoOf(row) : null
}

/** The log of a draft, in its order. */
export async function readLog(db: Connection, id: number): Promise<LoggedEntry[]> {
  const rows = await db
    .select()
    .from(draftEntries)
    .where(eq(draftEntries.draftId, id))
    .orderBy(asc(draftEntries.number))
  return rows.map(({ draftId: _, change, ...entry }) => ({
    ...entry,
    change: JSON.parse(change) as Change,
  }))
}

/** Adds an entry to the log of a locked draft. */
export async function addEntry(
  tx: Connection,
  draftId: number,
  { change, ...entry }: DraftEntry,
): Promise<void> {
  await tx.insert(draftEntries).values({ ...entry, draftId, change: JSON.stringify(change) })
  await tx
    .update(drafts)
    .set({ version: entry.number, ...written() })
    .where(eq(drafts.id, draftId))
}

/** Puts a locked draft on another base, with the log it has there. */
export async function putOnto(
  tx: Connection,
  draft: DraftInfo,
  base: { readonly id: number; readonly number: number },
  log: readonly DraftEntry[],
  conflicts: readonly DraftConflict[],
): Promise<void> {
  await tx.delete(draftEntries).where(eq(draftEntries.draftId, draft.id))
  // A rebased draft has a version of its own even where nothing is left of its log.
  const version = draft.version + 1 + log.length
  if (log.length > 0)
    await tx.insert(draftEntries).values(
      log.map(({ change, ...entry }) => ({
        ...entry,
        draftId: draft.id,
        change: JSON.stringify(change),
      })),
    )
  await tx
    .update(drafts)
    .set({
      baseId: base.id,
      baseNumber: base.number,
      version,
      ...written(),
      conflicts: JSON.stringify([...draft.conflicts, ...conflicts]),
    })
    .where(eq(drafts.id, draft.id))
}

export interface DraftWords {
  readonly name?: string
  readonly note?: string
  readonly pinned?: readonly PinnedQuestion[]
  /** True once somebody has read what could not follow the base. */
  readonly conflictsRead?: boolean
}

export async function describeDraft(db: Connection, id: number, words: DraftWords): Promise<void> {
  const { pinned, conflictsRead, ...told } = words
  await db
    .update(drafts)
    .set({
      ...told,
      ...(pinned ? { pinned: JSON.stringify(pinned) } : {}),
      ...(conflictsRead ? { conflicts: '[]' } : {}),
      ...written(),
    })
    .where(eq(drafts.id, id))
}

export const deleteDraft = (db: Connection, id: number) =>
  db.delete(drafts).where(eq(drafts.id, id))

export const noteSaved = (tx: Connection, id: number, number: number) =>
  tx
    .update(drafts)
    .set({ savedAs: number, ...written() })
    .where(eq(drafts.id, id))

export interface DraftText {
  readonly object: string
  readonly author: string
  readonly text: string
  readonly changedAt: Date
}

/** Texts that are being typed in a draft and are no change yet. */
export async function readTexts(db: Connection, id: number): Promise<DraftText[]> {
  const rows = await db
    .select()
    .from(draftTexts)
    .where(eq(draftTexts.draftId, id))
    .orderBy(asc(draftTexts.changedAt))
  return rows.map(({ draftId: _, ...text }) => text)
}

/** So many objects are kept half-typed in a draft. */
const MOST_TEXTS = 100

/**
 * Keeps what somebody is typing; null where it became a change, or is given up. Tells whether there
 * was room for it.
 */
export async function keepText(
  db: Database,
  draftId: number,
  object: string,
  author: string,
  text: string | null,
): Promise<boolean> {
  const inDraft = eq(draftTexts.draftId, draftId)
  const one = and(inDraft, eq(draftTexts.object, object), eq(draftTexts.author, author))
  return db.transaction(async (tx) => {
    await tx.update(drafts).set(written()).where(eq(drafts.id, draftId))
    if (text === null) {
      await tx.delete(draftTexts).where(one)
      return true
    }
    const changed = await tx
      .update(draftTexts)
      .set({ text, changedAt: new Date() })
      .where(one)
      .returning({ object: draftTexts.object })
    if (changed.length > 0) return true
    if ((await tx.$count(draftTexts, inDraft)) >= MOST_TEXTS) return false
    await tx.insert(draftTexts).values({ draftId, object, author, text })
    return true
  })
}
