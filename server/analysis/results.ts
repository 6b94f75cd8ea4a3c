import { and, asc, count, countDistinct, eq, gte, like, lt, not, sql } from 'drizzle-orm'
import { drizzle } from 'drizzle-orm/node-postgres'
import type pg from 'pg'
import {
  familyOfCode,
  tellRootCause,
  type RootCause,
  SEVERITIES,
  type ExpectationResult,
  type Finding,
  type FindingFamily,
  type Severity,
} from '@salt-trail/core'
import type { Database } from '../database/client'
import { copyRows } from '../database/copy'
import { isAccepted, joinsFinding, joinsRootCause, ofFinding, ofRootCause } from './accepted'
import type { Outline } from '../estates/outline'
import {
  analyses,
  exitRows,
  expectationResults,
  findings,
  revisions,
  rootCauses,
} from '../database/schema'

/** The results of an analysis. */
export interface AnalysisRows {
  readonly outline: Outline
  /** Rows of the matrix as JSON, some at a time, in the order of the estate. */
  readonly exits: Iterable<string[]> | AsyncIterable<string[]>
  readonly findings: readonly Finding[]
  readonly rootCauses: readonly RootCause[]
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
  for (const table of [analyses, exitRows, findings, rootCauses, expectationResults])
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
  await copyRows(
    client,
    rootCauses,
    rows.rootCauses.map((one, ordinal) => ({
      revisionId,
      ordinal,
      fingerprint: one.fingerprint,
      body: JSON.stringify(tellRootCause(one)),
    })),
  )
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
  { findings: found, rootCauses: causes, networkOf }: AnalysisRows,
): Generator<typeof findings.$inferInsert> {
  const causeOf = new Map(
    causes.flatMap(({ fingerprint, roots }) =>
      roots.flatMap((one) => one.findings.map((each) => [each.fingerprint, fingerprint] as const)),
    ),
  )
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
      rootCause: causeOf.get(fingerprint)!,
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
  /** Root causes of those. */
  readonly rootCauses: number
  readonly accepted: number
  readonly expectations: Readonly<Record<ExpectationResult['state'], number>>
}

/** How many findings there are of each severity and family, and expectations of each state. */
export async function countAnalysis(db: Database, revisionId: number): Promise<Counts> {
  const bySeverity = await db
    .select({
      severity: findings.severity,
      family: findings.family,
      accepted: sql<boolean>`${isAccepted}`,
      n: count(),
    })
    .from(findings)
    .innerJoin(revisions, eq(revisions.id, findings.revisionId))
    .leftJoin(ofFinding, joinsFinding)
    .leftJoin(ofRootCause, joinsRootCause)
    .where(eq(findings.revisionId, revisionId))
    .groupBy(findings.severity, findings.family, sql`3`)
  const [causes] = await db
    .select({ n: countDistinct(findings.rootCause) })
    .from(findings)
    .innerJoin(revisions, eq(revisions.id, findings.revisionId))
    .leftJoin(ofFinding, joinsFinding)
    .leftJoin(ofRootCause, joinsRootCause)
    .where(and(eq(findings.revisionId, revisionId), not(isAccepted)))
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
    rootCauses: causes!.n,
    accepted: bySeverity.filter((row) => row.accepted).reduce((total, { n }) => total + n, 0),
    expectations: { holds: states('holds'), broken: states('broken'), empty: states('empty') },
  }
}

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
