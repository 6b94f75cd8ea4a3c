import {
  type AnyPgColumn,
  bigserial,
  bigint,
  cidr,
  date,
  index,
  integer,
  pgTable,
  primaryKey,
  serial,
  text,
  timestamp,
  uniqueIndex,
} from 'drizzle-orm/pg-core'
import { isNull } from 'drizzle-orm'

/** An organisation's networks under one name; what they are is in its revisions. */
export const estates = pgTable('estates', {
  id: serial().primaryKey(),
  /** The word in addresses and on the command line. */
  slug: text().notNull().unique(),
  name: text().notNull(),
  createdAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
})

/**
 * One state of an estate. Never changed once it is there: a trigger refuses updates. A state that a
 * draft has, or had, is kept here too while somebody looks at it, so that every view can show it.
 */
export const revisions = pgTable(
  'revisions',
  {
    id: bigserial({ mode: 'number' }).primaryKey(),
    estateId: integer()
      .notNull()
      .references(() => estates.id, { onDelete: 'cascade' }),
    /** Counted from 1 in each estate; for the state of a draft, the number of its base. */
    number: integer().notNull(),
    /** The draft whose state this is, and the version of it; null for a revision. */
    draftId: integer().references((): AnyPgColumn => drafts.id, { onDelete: 'cascade' }),
    draftVersion: integer(),
    createdAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
    author: text().notNull(),
    /** Where it came from: `demo`, `files`, `command line`. */
    origin: text().notNull(),
    note: text().notNull().default(''),
    /** Why it was saved although it breaks an expectation that held; null where it breaks none. */
    reason: text(),
    /**
     * The whole estate in the format, JSON notation, in its own order; text, since jsonb would
     * reorder it.
     */
    document: text().notNull(),
  },
  (t) => [
    uniqueIndex('revisions_estate_number').on(t.estateId, t.number).where(isNull(t.draftId)),
    uniqueIndex('revisions_draft_version').on(t.draftId, t.draftVersion),
  ],
)

/** A revision and changes that are tried in it. */
export const drafts = pgTable(
  'drafts',
  {
    id: serial().primaryKey(),
    estateId: integer()
      .notNull()
      .references(() => estates.id, { onDelete: 'cascade' }),
    /** The revision it is made in; null where that one is gone: its changes are kept. */
    baseId: bigint({ mode: 'number' }).references((): AnyPgColumn => revisions.id, {
      onDelete: 'set null',
    }),
    baseNumber: integer().notNull(),
    name: text().notNull(),
    author: text().notNull(),
    note: text().notNull().default(''),
    kind: text().$type<'change' | 'outage'>().notNull().default('change'),
    createdAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
    changedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
    /**
     * Counts whatever is written of it, what is being typed included: who looks again compares it.
     */
    edition: integer().notNull().default(0),
    /** How many entries its log had, those before it was rebased included. */
    version: integer().notNull().default(0),
    /** What could not follow its base as it was meant, as JSON. */
    conflicts: text().notNull().default('[]'),
    /** The questions that are answered again after each change, as JSON. */
    pinned: text().notNull().default('[]'),
    /** The revision that was saved of it last. */
    savedAs: integer(),
  },
  (t) => [index('drafts_estate').on(t.estateId)],
)

/** The log of a draft. Entries are added, never changed; a rebased draft has a new log. */
export const draftEntries = pgTable(
  'draft_entries',
  {
    draftId: integer()
      .notNull()
      .references(() => drafts.id, { onDelete: 'cascade' }),
    number: integer().notNull(),
    what: text().notNull(),
    author: text().notNull(),
    createdAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
    /** The entry that this one takes back. */
    undoes: integer(),
    /** RFC 6902, as JSON text, since jsonb would reorder the keys of what is added. */
    change: text().notNull(),
  },
  (t) => [primaryKey({ columns: [t.draftId, t.number] })],
)

/** Texts of objects that somebody is typing and that are no change yet, such as invalid ones. */
export const draftTexts = pgTable(
  'draft_texts',
  {
    draftId: integer()
      .notNull()
      .references(() => drafts.id, { onDelete: 'cascade' }),
    /** `section/id`. */
    object: text().notNull(),
    author: text().notNull(),
    text: text().notNull(),
    changedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.draftId, t.object, t.author] })],
)

/** The files a revision was brought in with, comments and all. */
export const revisionFiles = pgTable(
  'revision_files',
  {
    revisionId: bigint({ mode: 'number' })
      .notNull()
      .references(() => revisions.id, { onDelete: 'cascade' }),
    ordinal: integer().notNull(),
    name: text().notNull(),
    text: text().notNull(),
  },
  (t) => [primaryKey({ columns: [t.revisionId, t.ordinal] })],
)

/**
 * Every range of a revision in the database's own address type, for questions over all estates
 * ("who has this address?").
 */
export const revisionRanges = pgTable(
  'revision_ranges',
  {
    revisionId: bigint({ mode: 'number' })
      .notNull()
      .references(() => revisions.id, { onDelete: 'cascade' }),
    section: text().notNull(),
    objectId: text().notNull(),
    ordinal: integer().notNull(),
    range: cidr().notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.revisionId, t.section, t.objectId, t.ordinal] }),
    index('revision_ranges_range').using('gist', t.range.op('inet_ops')),
  ],
)

const ofRevision = () =>
  bigint({ mode: 'number' })
    .notNull()
    .references(() => revisions.id, { onDelete: 'cascade' })

/**
 * Revisions whose document was checked, and by which version: that one reads it without checking it
 * again.
 */
export const checkedRevisions = pgTable('checked_revisions', {
  revisionId: ofRevision().primaryKey(),
  /** What names the code that checked it. */
  engine: text().notNull(),
})

/** Revisions that were analysed, whole, by which version of the analysis. */
export const analyses = pgTable('analyses', {
  revisionId: ofRevision().primaryKey(),
  /** What names the code that made it: another one makes it anew. */
  engine: text().notNull(),
  finishedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
  milliseconds: integer().notNull(),
  /** What the revision holds, as JSON, so that looking at it needs no model of it. */
  outline: text().notNull(),
})

/**
 * The shares of a large revision's analysis while it is under way; they are gone once it is whole.
 */
export const analysisShares = pgTable(
  'analysis_shares',
  {
    revisionId: ofRevision(),
    /** Counted from 0, of so many. */
    number: integer().notNull(),
    of: integer().notNull(),
    engine: text().notNull(),
    state: text().$type<'waiting' | 'running' | 'done' | 'failed'>().notNull().default('waiting'),
    /** Why it failed. */
    message: text(),
    startedAt: timestamp({ withTimezone: true }),
    /** Its rows of the matrix and what its checks found, as JSON. */
    rows: text(),
    found: text(),
  },
  (t) => [primaryKey({ columns: [t.revisionId, t.number] })],
)

/** The ways out of each subnet of an analysed revision, in the order of the estate. */
export const exitRows = pgTable(
  'exit_rows',
  {
    revisionId: ofRevision(),
    ordinal: integer().notNull(),
    /** As JSON. */
    body: text().notNull(),
  },
  (t) => [primaryKey({ columns: [t.revisionId, t.ordinal] })],
)

/** What is wrong with an analysed revision, the most severe first. */
export const findings = pgTable(
  'findings',
  {
    revisionId: ofRevision(),
    ordinal: integer().notNull(),
    /** The same flaw keeps it from revision to revision. */
    fingerprint: text().notNull(),
    code: text().notNull(),
    family: text().notNull(),
    severity: text().notNull(),
    anchor: text().notNull(),
    /** The network it lies in, if it lies in one. */
    network: text(),
    sentence: text().notNull(),
    /** The fingerprint of its root cause. */
    rootCause: text().notNull().default(''),
    /** The whole finding as JSON. */
    body: text().notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.revisionId, t.ordinal] }),
    index('findings_fingerprint').on(t.fingerprint),
  ],
)

/** The root causes of an analysed revision's findings, the gravest first. */
export const rootCauses = pgTable(
  'root_causes',
  {
    revisionId: ofRevision(),
    ordinal: integer().notNull(),
    /** Findings name it. */
    fingerprint: text().notNull(),
    /** As JSON. */
    body: text().notNull(),
  },
  (t) => [primaryKey({ columns: [t.revisionId, t.ordinal] })],
)

/**
 * Findings and root causes that were accepted, and why; a root cause for whatever joins it. They hold for every revision of an estate, until a day if
 * one is named.
 */
export const acceptances = pgTable(
  'acceptances',
  {
    estateId: integer()
      .notNull()
      .references(() => estates.id, { onDelete: 'cascade' }),
    fingerprint: text().notNull(),
    reason: text().notNull(),
    author: text().notNull(),
    createdAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
    /** The last day on which it holds. */
    until: date(),
  },
  (t) => [primaryKey({ columns: [t.estateId, t.fingerprint] })],
)

/** What became of each expectation of an analysed revision. */
export const expectationResults = pgTable(
  'expectation_results',
  {
    revisionId: ofRevision(),
    ordinal: integer().notNull(),
    state: text().notNull(),
    /** As JSON. */
    body: text().notNull(),
  },
  (t) => [primaryKey({ columns: [t.revisionId, t.ordinal] })],
)

/** Demos that were loaded once; one that was deleted afterwards does not come back. */
export const loadedDemos = pgTable('loaded_demos', {
  name: text().primaryKey(),
  loadedAt: timestamp({ withTimezone: true }).notNull().defaultNow(),
})
