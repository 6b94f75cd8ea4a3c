import { and, desc, eq, isNull, sql } from 'drizzle-orm'
import { readEstate, readWritten, type Estate, type SourceFile } from '@salt-trail/core'
import type { Database } from '../database/client'
import {
  checkedRevisions,
  estates,
  revisionFiles,
  revisionRanges,
  revisions,
} from '../database/schema'
import { estateRoles } from '../database/access-schema'
import { engine } from '../engine'
import type { EstateContent } from './content'
import { WITHOUT_LIMITS } from './limits'

export interface RevisionInfo {
  readonly number: number
  readonly createdAt: Date
  readonly author: string
  readonly origin: string
  readonly note: string
  /** Why it was saved although it breaks an expectation that held. */
  readonly reason: string | null
}

export interface EstateInfo {
  readonly slug: string
  readonly name: string
  readonly head: RevisionInfo
}

export interface NewRevision {
  readonly content: EstateContent
  readonly files: readonly SourceFile[]
  readonly author: string
  readonly origin: string
  readonly note?: string
  readonly reason?: string | null
  /** When it was made, if not now. */
  readonly createdAt?: Date
}

/** A newer revision was saved in the meantime. */
export class RevisionConflict extends Error {
  constructor(
    readonly expected: number,
    readonly head: number,
  ) {
    super(`revision ${head} was saved in the meantime; this one was made from revision ${expected}`)
  }
}

const info = {
  number: revisions.number,
  createdAt: revisions.createdAt,
  author: revisions.author,
  origin: revisions.origin,
  note: revisions.note,
  reason: revisions.reason,
}
/** States of drafts are kept beside revisions, and are none. */
export const isRevision = isNull(revisions.draftId)

export async function listEstates(db: Database): Promise<EstateInfo[]> {
  const rows = await db
    .selectDistinctOn([estates.id], { slug: estates.slug, name: estates.name, ...info })
    .from(estates)
    .innerJoin(revisions, eq(revisions.estateId, estates.id))
    .where(isRevision)
    .orderBy(estates.id, desc(revisions.number))
  return rows.map(({ slug, name, ...head }) => ({ slug, name, head }))
}

/** The revisions of an estate, the newest first; null if there is no such estate. */
export async function listRevisions(db: Database, slug: string): Promise<RevisionInfo[] | null> {
  const rows = await db
    .select(info)
    .from(revisions)
    .innerJoin(estates, eq(revisions.estateId, estates.id))
    .where(and(eq(estates.slug, slug), isRevision))
    .orderBy(desc(revisions.number))
  return rows.length > 0 ? rows : null
}

const revisionWhere = (slug: string, number: number | null) =>
  number === null
    ? and(eq(estates.slug, slug), isRevision)
    : and(eq(estates.slug, slug), isRevision, eq(revisions.number, number))

/** The id and number of a revision (null: the newest), or null if there is none. */
export async function findRevision(
  db: Database,
  slug: string,
  number: number | null,
): Promise<{ id: number; number: number } | null> {
  const [row] = await db
    .select({ id: revisions.id, number: revisions.number })
    .from(revisions)
    .innerJoin(estates, eq(revisions.estateId, estates.id))
    .where(revisionWhere(slug, number))
    .orderBy(desc(revisions.number))
    .limit(1)
  return row ?? null
}

/** How many bytes the document of a revision has. */
export async function sizeOfDocument(db: Database, revisionId: number): Promise<number> {
  const [row] = await db
    .select({ bytes: sql<number>`octet_length(${revisions.document})` })
    .from(revisions)
    .where(eq(revisions.id, revisionId))
  return row?.bytes ?? 0
}

export async function readDocument(db: Database, revisionId: number): Promise<string> {
  const [row] = await db
    .select({ document: revisions.document })
    .from(revisions)
    .where(eq(revisions.id, revisionId))
  if (!row) throw new Error(`revision ${revisionId} is gone`)
  return row.document
}

/** A saved document, and the estate that it is of. */
export interface ReadRevision {
  readonly document: string
  readonly estate: Estate
}

/**
 * The estate of a saved document. What this version checked when it was saved, or read before, is
 * not checked again: that is nine tenths of reading. What another version saved is, once; if it is
 * no longer valid, an Error says so.
 */
export async function readRevision(db: Database, revisionId: number): Promise<ReadRevision> {
  const document = await readDocument(db, revisionId)
  const [known] = await db
    .select()
    .from(checkedRevisions)
    .where(eq(checkedRevisions.revisionId, revisionId))
  const written = known?.engine === engine() ? readWritten(document) : null
  if (written) return { document, estate: written }
  const { estate, problems } = readEstate(
    [{ name: `revision ${revisionId}`, text: document }],
    WITHOUT_LIMITS,
  )
  if (!estate)
    throw new Error(`revision ${revisionId} can no longer be read: ${problems[0]?.message}`)
  await noteChecked(db, revisionId)
  return { document, estate }
}

/** Notes that this version has checked the document of a revision. */
export async function noteChecked(db: Pick<Database, 'insert'>, revisionId: number): Promise<void> {
  const checked = { revisionId, engine: engine() }
  await db
    .insert(checkedRevisions)
    .values(checked)
    .onConflictDoUpdate({ target: checkedRevisions.revisionId, set: checked })
}

export async function readFiles(db: Database, revisionId: number): Promise<SourceFile[]> {
  return db
    .select({ name: revisionFiles.name, text: revisionFiles.text })
    .from(revisionFiles)
    .where(eq(revisionFiles.revisionId, revisionId))
    .orderBy(revisionFiles.ordinal)
}

/** Starts an estate with its first revision; the slug is made from the name and is its own. */
export async function createEstate(
  db: Database,
  first: NewRevision,
  /** The account that owns it; null for one that only owners of the server may use at first. */
  ownerId: number | null = null,
): Promise<{ slug: string; number: number }> {
  return db.transaction(async (tx) => {
    // One creation at a time, so that two estates of one name get two slugs.
    await tx.execute(sql`lock table ${estates} in share row exclusive mode`)
    const taken = new Set(
      (await tx.select({ slug: estates.slug }).from(estates)).map((row) => row.slug),
    )
    const slug = freeSlug(first.content.name, taken)
    const [row] = await tx
      .insert(estates)
      .values({ slug, name: first.content.name })
      .returning({ id: estates.id })
    if (ownerId !== null) {
      const owner = { estateId: row!.id, accountId: ownerId, role: 'owner' as const }
      await tx.insert(estateRoles).values(owner)
    }
    await insertRevision(tx, row!.id, 1, first)
    return { slug, number: 1 }
  })
}

/**
 * Saves a new revision of an estate, whole or not at all. `base` is the revision it was made from:
 * if that is no longer the newest, RevisionConflict is thrown and nothing is saved. Null if there
 * is no such estate.
 */
export async function addRevision(
  db: Database,
  slug: string,
  base: number,
  next: NewRevision,
): Promise<{ slug: string; number: number } | null> {
  return db.transaction(async (tx) => {
    const [row] = await tx
      .select({ id: estates.id })
      .from(estates)
      .where(eq(estates.slug, slug))
      .for('update')
    if (!row) return null
    const [head] = await tx
      .select({ number: sql<number>`max(${revisions.number})` })
      .from(revisions)
      .where(and(eq(revisions.estateId, row.id), isRevision))
    if (head!.number !== base) throw new RevisionConflict(base, head!.number)
    await insertRevision(tx, row.id, base + 1, next)
    await tx.update(estates).set({ name: next.content.name }).where(eq(estates.id, row.id))
    return { slug, number: base + 1 }
  })
}

const ROWS_AT_ONCE = 5_000

async function insertRevision(
  tx: Pick<Database, 'insert'>,
  estateId: number,
  number: number,
  revision: NewRevision,
): Promise<void> {
  const { content, files, author, origin, note = '', reason = null, createdAt } = revision
  const [row] = await tx
    .insert(revisions)
    .values({
      ...{ estateId, number, author, origin, note, reason, createdAt },
      document: content.document,
    })
    .returning({ id: revisions.id })
  const revisionId = row!.id
  await noteChecked(tx, revisionId)
  if (files.length > 0)
    await tx
      .insert(revisionFiles)
      .values(files.map((file, ordinal) => ({ revisionId, ordinal, ...file })))
  const { ranges } = content
  for (let at = 0; at < ranges.length; at += ROWS_AT_ONCE) {
    await tx
      .insert(revisionRanges)
      .values(ranges.slice(at, at + ROWS_AT_ONCE).map((range) => ({ revisionId, ...range })))
  }
}

/**
 * A word for addresses out of a name: small letters, digits and hyphens, made different from those
 * taken.
 */
export function freeSlug(name: string, taken: ReadonlySet<string>): string {
  const base =
    name
      .normalize('NFKD')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .slice(0, 60) || 'estate'
  if (!taken.has(base)) return base
  let count = 2
  while (taken.has(`${base}-${count}`)) count++
  return `${base}-${count}`
}

/** An estate by its slug; null if there is none. */
export async function estateNamed(
  db: Database,
  slug: string,
): Promise<{ id: number; name: string } | null> {
  const [row] = await db
    .select({ id: estates.id, name: estates.name })
    .from(estates)
    .where(eq(estates.slug, slug))
  return row ?? null
}

/** The newest revisions of an estate, by their ids and numbers. */
export const newestRevisions = (
  db: Database,
  slug: string,
  most: number,
): Promise<{ id: number; number: number }[]> =>
  db
    .select({ id: revisions.id, number: revisions.number })
    .from(revisions)
    .innerJoin(estates, eq(revisions.estateId, estates.id))
    .where(and(eq(estates.slug, slug), isRevision))
    .orderBy(desc(revisions.number))
    .limit(most)

/** The ids of all that was saved of an estate, states of its drafts included. */
export async function revisionIds(db: Database, estateId: number): Promise<number[]> {
  const rows = await db
    .select({ id: revisions.id })
    .from(revisions)
    .where(eq(revisions.estateId, estateId))
  return rows.map(({ id }) => id)
}

/** Deletes an estate with its revisions, drafts, analyses and acceptances. */
export const deleteEstate = (db: Database, estateId: number) =>
  db.delete(estates).where(eq(estates.id, estateId))
