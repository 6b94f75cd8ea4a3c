import {
  and,
  asc,
  count,
  eq,
  gte,
  ilike,
  inArray,
  isNotNull,
  isNull,
  like,
  lt,
  or,
  sql,
  type AnyColumn,
} from 'drizzle-orm'
import { drizzle } from 'drizzle-orm/node-postgres'
import type pg from 'pg'
import {
  familyOfCode,
  SEVERITIES,
  type ExpectationResult,
  type Finding,
  type FindingFamily,
  type Severity,
  withoutMend,
} from '@salt-trail/core'
import type { Database } from '../database/client'
import { copyRows } from '../database/copy'
import type { Outline } from '../estates/outline'
import {
  acceptances,
  analyses,
  exitRows,
  expectationResults,
  findings,
  revisions,
} from '../database/schema'

/** The results of an analysis. */
export interface AnalysisRows {
  readonly outline: Outline
  /** Rows of the matrix as JSON, some at a time, in the order of the estate. */
  readonly exits: Iterable<string[]> | AsyncIterable<string[]>
  readonly findings: readonly Finding[]
  readonly networkOf: (finding: Finding) => string | null
  readonly expectations: readonly ExpectationResult[]
}

/** Which analysis it is, and how long it took. */
export interface Analysed {
  readonly revisionId: number
  readonly engine: string
  readonly milliseconds: number
}

/**
 * Saves what was found of a revision in place of what was there, within a transaction of the client
 * that keeps it whole.
 */
export async function saveAnalysis(
  client: pg.ClientBase,
  { revisionId, engine, milliseconds }: Analysed,
  rows: AnalysisRows,
): Promise<void> {
  const tx = drizzle(client as pg.Client, { casing: 'snake_case' })
  for (const table of [analyses, exitRows, findings, expectationResults])
    await tx.delete(table).where(eq(table.revisionId, revisionId))
  await tx
    .insert(analyses)
    .values({ revisionId, engine, milliseconds, outline: JSON.stringify(rows.outline) })
  let ordinal = 0
  for await (const some of rows.exits) {
    const first = ordinal
    ordinal += some.length
    await copyRows(
      client,
      exitRows,
      some.map((body, at) => ({ revisionId, ordinal: first + at, body })),
    )
  }
  await copyRows(client, findings, findingRows(revisionId, rows))
  // A broken one is traced by asking for its packet: the trace itself would make the list too long.
  const results = rows.expectations.map(({ trace: _, ...one }, ordinal) => ({
    revisionId,
    ordinal,
    state: one.state,
    body: JSON.stringify(one),
  }))
  await copyRows(client, expectationResults, results)
}

/** Findings as they are kept, made one by one as they are written. */
function* findingRows(
  revisionId: number,
  { findings: found, networkOf }: AnalysisRows,
): Generator<typeof findings.$inferInsert> {
  for (const [ordinal, finding] of found.entries()) {
    const { fingerprint, code, severity, anchor, sentence } = finding
    const family = familyOfCode(code)
    const network = networkOf(finding)
    yield {
      revisionId,
      ordinal,
      fingerprint,
      code,
      family,
      severity,
      anchor,
      network,
      sentence,
      body: JSON.stringify(finding),
    }
  }
}

/**
 * When and how long a revision was analysed by this version of the analysis; null if it was not.
 */
export async function findAnalysis(
  db: Database,
  revisionId: number,
  engine: string,
): Promise<{ finishedAt: Date; milliseconds: number } | null> {
  const [row] = await db
    .select({ finishedAt: analyses.finishedAt, milliseconds: analyses.milliseconds })
    .from(analyses)
    .where(and(eq(analyses.revisionId, revisionId), eq(analyses.engine, engine)))
  return row ?? null
}

/** What an analysed revision holds, as a JSON text; null if it was not analysed. */
export async function readOutline(
  db: Database,
  revisionId: number,
  engine: string,
): Promise<string | null> {
  const [row] = await db
    .select({ outline: analyses.outline })
    .from(analyses)
    .where(and(eq(analyses.revisionId, revisionId), eq(analyses.engine, engine)))
  return row?.outline ?? null
}

export interface Counts {
  /** Those that are not accepted. */
  readonly findings: Readonly<Record<Severity, number>>
  readonly families: Readonly<Record<FindingFamily, number>>
  readonly accepted: number
  readonly expectations: Readonly<Record<ExpectationResult['state'], number>>
}

/** How many findings there are of each severity and family, and expectations of each state. */
export async function countAnalysis(db: Database, revisionId: number): Promise<Counts> {
  const bySeverity = await db
    .select({
      severity: findings.severity,
      family: findings.family,
      accepted: isNotNull(acceptances.fingerprint),
      n: count(),
    })
    .from(findings)
    .innerJoin(revisions, eq(revisions.id, findings.revisionId))
    .leftJoin(acceptances, isAccepted)
    .where(eq(findings.revisionId, revisionId))
    .groupBy(findings.severity, findings.family, isNotNull(acceptances.fingerprint))
  const byState = await db
    .select({ state: expectationResults.state, n: count() })
    .from(expectationResults)
    .where(eq(expectationResults.revisionId, revisionId))
    .groupBy(expectationResults.state)
  const sum = (of: (row: (typeof bySeverity)[number]) => boolean): number =>
    bySeverity.filter((row) => !row.accepted && of(row)).reduce((total, { n }) => total + n, 0)
  const states = (state: string): number => byState.find((row) => row.state === state)?.n ?? 0
  return {
    findings: Object.fromEntries(
      SEVERITIES.map((severity) => [severity, sum((row) => row.severity === severity)]),
    ) as Record<Severity, number>,
    families: {
      leak: sum((row) => row.family === 'leak'),
      hole: sum((row) => row.family === 'hole'),
      weak: sum((row) => row.family === 'weak'),
    },
    accepted: bySeverity.filter((row) => row.accepted).reduce((total, { n }) => total + n, 0),
    expectations: { holds: states('holds'), broken: states('broken'), empty: states('empty') },
  }
}

/** Joins a finding with what was said when it was accepted, for as long as that holds. */
const isAccepted = and(
  eq(acceptances.estateId, revisions.estateId),
  eq(acceptances.fingerprint, findings.fingerprint),
  or(isNull(acceptances.until), gte(acceptances.until, sql`current_date`)),
)

export interface Span {
  /** The first one wanted, from 0, and how many. */
  readonly from: number
  readonly count: number
}

/** Some rows of the matrix, as JSON texts, and how many there are in all. */
export async function readExits(
  db: Database,
  revisionId: number,
  { from, count: wanted }: Span,
): Promise<{ total: number; rows: string[] }> {
  const of = eq(exitRows.revisionId, revisionId)
  const [all] = await db.select({ n: count() }).from(exitRows).where(of)
  const rows = await db
    .select({ body: exitRows.body })
    .from(exitRows)
    .where(and(of, gte(exitRows.ordinal, from), lt(exitRows.ordinal, from + wanted)))
    .orderBy(asc(exitRows.ordinal))
  return { total: all!.n, rows: rows.map((row) => row.body) }
}

export interface FindingsWanted extends Span {
  readonly family?: FindingFamily
  /** At least this severe. */
  readonly severity?: Severity
  /** In the code, the anchor or the sentence. */
  readonly text?: string
  readonly fingerprint?: string
  /** Named among the objects of the finding, as `section/id`. */
  readonly object?: string
  readonly network?: string
  /** What they are grouped by; within a group the most severe come first. */
  readonly by?: keyof typeof GROUPED
}

export interface FindingsFound {
  readonly total: number
  /** How many are in each group, in their order; null for the findings of no network. */
  readonly groups: { readonly key: string | null; readonly total: number }[]
  /** As JSON texts. */
  readonly findings: string[]
}

/** The place of a word in a list, for the database to order by. */
const placeIn = (column: AnyColumn, words: readonly string[]) =>
  sql`array_position(${sql.param([...words])}::text[], ${column})`

const GROUPED = {
  severity: { key: findings.severity, place: placeIn(findings.severity, SEVERITIES) },
  family: { key: findings.family, place: placeIn(findings.family, ['leak', 'hole', 'weak']) },
  network: { key: findings.network, place: sql`${findings.network} nulls last` },
} as const

/** A pattern that finds a text as it stands, anywhere. */
const exactly = (text: string): string => `%${text.replace(/[\\%_]/g, '\\$&')}%`

/** The kept text of a finding, as it is told: the mend of its check is for the moves alone. */
export const toldBody = (body: string): string =>
  JSON.stringify(withoutMend(JSON.parse(body) as Finding))

/** Some findings, as JSON texts, and how many match. */
export async function readFindings(
  db: Database,
  revisionId: number,
  {
    from,
    count: wanted,
    family,
    severity,
    text,
    fingerprint,
    object,
    network,
    by = 'severity',
  }: FindingsWanted,
): Promise<FindingsFound> {
  const where = and(
    eq(findings.revisionId, revisionId),
    family === undefined ? undefined : eq(findings.family, family),
    fingerprint === undefined ? undefined : eq(findings.fingerprint, fingerprint),
    network === undefined ? undefined : eq(findings.network, network),
    object === undefined ? undefined : like(findings.body, exactly(JSON.stringify(object))),
    severity === undefined
      ? undefined
      : inArray(findings.severity, SEVERITIES.slice(0, SEVERITIES.indexOf(severity) + 1)),
    text === undefined || text === ''
      ? undefined
      : or(
          ilike(findings.code, exactly(text)),
          ilike(findings.anchor, exactly(text)),
          ilike(findings.sentence, exactly(text)),
        ),
  )
  const { place, key } = GROUPED[by]
  const groups = await db
    .select({ key, total: count() })
    .from(findings)
    .where(where)
    .groupBy(key)
    .orderBy(place)
  const { reason, author, until } = acceptances
  const rows = await db
    .select({ body: findings.body, network: findings.network, accepted: { reason, author, until } })
    .from(findings)
    .innerJoin(revisions, eq(revisions.id, findings.revisionId))
    .leftJoin(acceptances, isAccepted)
    .where(where)
    .orderBy(place, asc(findings.ordinal))
    .limit(wanted)
    .offset(from)
  return {
    total: groups.reduce((sum, group) => sum + group.total, 0),
    groups,
    findings: rows.map(
      ({ body, network, accepted }) =>
        `${toldBody(body).slice(0, -1)},"network":${JSON.stringify(network)},"accepted":${JSON.stringify(accepted?.reason == null ? null : accepted)}}`,
    ),
  }
}

export async function readExpectations(db: Database, revisionId: number): Promise<string[]> {
  const rows = await db
    .select({ body: expectationResults.body })
    .from(expectationResults)
    .where(eq(expectationResults.revisionId, revisionId))
    .orderBy(asc(expectationResults.ordinal))
  return rows.map((row) => row.body)
}

/** The findings of what is idle, as JSON texts. */
export async function readIdle(db: Database, revisionId: number): Promise<string[]> {
  const rows = await db
    .select({ body: findings.body })
    .from(findings)
    .where(and(eq(findings.revisionId, revisionId), like(findings.code, 'idle-%')))
    .orderBy(asc(findings.ordinal))
  return rows.map((row) => row.body)
}
