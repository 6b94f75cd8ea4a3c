import { and, desc, eq, inArray, notExists, sql } from 'drizzle-orm'
import { alias } from 'drizzle-orm/pg-core'
import type { FindingFamily } from '@salt-trail/core'
import type { Database } from '../database/client'
import {
  analyses,
  estates,
  expectationResults,
  findings,
  revisions,
  rootCauses,
} from '../database/schema'
import { isRevision, type RevisionInfo } from '../estates/store'
import { toldBody } from './found'

/** A revision with its counts of findings; null where this version did not analyse it. */
export interface RevisionHistory extends RevisionInfo {
  readonly counts: Readonly<Record<FindingFamily | 'rootCauses' | 'broken', number>> | null
}

/**
 * The revisions of an estate, the newest first, with what was found of each; what was accepted
 * counts too. Null if there is no such estate.
 */
export async function readHistory(
  db: Database,
  slug: string,
  engine: string,
): Promise<RevisionHistory[] | null> {
  const { number, createdAt, author, origin, note, reason } = revisions
  const rows = await db
    .select({
      id: revisions.id,
      number,
      createdAt,
      author,
      origin,
      note,
      reason,
      analysed: analyses.engine,
    })
    .from(revisions)
    .innerJoin(estates, eq(revisions.estateId, estates.id))
    .leftJoin(analyses, and(eq(analyses.revisionId, revisions.id), eq(analyses.engine, engine)))
    .where(and(eq(estates.slug, slug), isRevision))
    .orderBy(desc(revisions.number))
  if (rows.length === 0) return null
  const ids = rows.flatMap(({ id, analysed }) => (analysed === null ? [] : [id]))
  const n = sql<number>`count(*)::int`
  const byFamily =
    ids.length === 0
      ? []
      : await db
          .select({ id: findings.revisionId, family: findings.family, n })
          .from(findings)
          .where(inArray(findings.revisionId, ids))
          .groupBy(findings.revisionId, findings.family)
  const broken =
    ids.length === 0
      ? []
      : await db
          .select({ id: expectationResults.revisionId, n })
          .from(expectationResults)
          .where(
            and(
              inArray(expectationResults.revisionId, ids),
              eq(expectationResults.state, 'broken'),
            ),
          )
          .groupBy(expectationResults.revisionId)
  const causes =
    ids.length === 0
      ? []
      : await db
          .select({ id: rootCauses.revisionId, n })
          .from(rootCauses)
          .where(inArray(rootCauses.revisionId, ids))
          .groupBy(rootCauses.revisionId)
  return rows.map(({ id, analysed, ...info }) => {
    const of = (family: FindingFamily): number =>
      byFamily.find((row) => row.id === id && row.family === family)?.n ?? 0
    const counts =
      analysed === null
        ? null
        : {
            leak: of('leak'),
            hole: of('hole'),
            weak: of('weak'),
            rootCauses: causes.find((row) => row.id === id)?.n ?? 0,
            broken: broken.find((row) => row.id === id)?.n ?? 0,
          }
    return { ...info, counts }
  })
}

/**
 * Findings of one analysed revision that another one does not have, as JSON texts, the most severe
 * first.
 */
export async function findingsBeyond(
  db: Database,
  revisionId: number,
  otherId: number,
): Promise<string[]> {
  const other = alias(findings, 'other')
  const same = db
    .select({ one: sql`1` })
    .from(other)
    .where(and(eq(other.revisionId, otherId), eq(other.fingerprint, findings.fingerprint)))
  const rows = await db
    .select({ body: findings.body })
    .from(findings)
    .where(and(eq(findings.revisionId, revisionId), notExists(same)))
    .orderBy(findings.ordinal)
    .limit(MOST_FINDINGS)
  return rows.map(({ body }) => toldBody(body))
}

const MOST_FINDINGS = 500
