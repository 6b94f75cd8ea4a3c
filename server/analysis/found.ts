import {
  and,
  asc,
  count,
  eq,
  getTableColumns,
  ilike,
  inArray,
  like,
  or,
  sql,
  type AnyColumn,
} from 'drizzle-orm'
import {
  SEVERITIES,
  type Finding,
  type FindingFamily,
  type Severity,
  withoutMend,
} from '@salt-trail/core'
import type { Database } from '../database/client'
import { findings, revisions, rootCauses } from '../database/schema'
import { holds, joinsFinding, joinsRootCause, ofFinding, ofRootCause } from './accepted'
import type { Span } from './results'

/** Which findings are meant. */
export interface FindingsMeant {
  readonly family?: FindingFamily
  /** At least this severe. */
  readonly severity?: Severity
  /** In the code, the anchor or the sentence. */
  readonly text?: string
  /** Routes to what is gone, and what nothing uses. */
  readonly about?: 'left-behind'
  readonly fingerprint?: string
  readonly rootCause?: string
  /** Named among the objects of the finding, as `section/id`. */
  readonly object?: string
  readonly network?: string
}

export interface FindingsWanted extends FindingsMeant, Span {
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

/** The condition that those of a revision which are meant fulfil. */
const meant = (
  revisionId: number,
  { family, severity, text, about, fingerprint, rootCause, object, network }: FindingsMeant,
) =>
  and(
    eq(findings.revisionId, revisionId),
    family === undefined ? undefined : eq(findings.family, family),
    about === undefined
      ? undefined
      : or(like(findings.code, 'idle-%'), eq(findings.code, 'hole-dead-target')),
    fingerprint === undefined ? undefined : eq(findings.fingerprint, fingerprint),
    rootCause === undefined ? undefined : eq(findings.rootCause, rootCause),
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

/** What was said when a finding was accepted, itself or with its root cause. */
const SAID = { one: getTableColumns(ofFinding), whole: getTableColumns(ofRootCause) }

type Said = { readonly [K in keyof typeof SAID]: typeof ofFinding.$inferSelect | null }

/** How a finding, or a root cause, is told to be accepted; null where it is not. */
function acceptedOf({ one, whole }: Said): object | null {
  const said = one ?? whole
  return (
    said && {
      reason: said.reason,
      author: said.author,
      until: said.until,
      fingerprint: said.fingerprint,
    }
  )
}

/** Some findings, as JSON texts, and how many match. */
export async function readFindings(
  db: Database,
  revisionId: number,
  { from, count: wanted, by = 'severity', ...which }: FindingsWanted,
): Promise<FindingsFound> {
  const where = meant(revisionId, which)
  const { place, key } = GROUPED[by]
  const groups = await db
    .select({ key, total: count() })
    .from(findings)
    .where(where)
    .groupBy(key)
    .orderBy(place)
  const { body, network, rootCause } = findings
  const rows = await db
    .select({ body, network, rootCause, ...SAID })
    .from(findings)
    .innerJoin(revisions, eq(revisions.id, findings.revisionId))
    .leftJoin(ofFinding, joinsFinding)
    .leftJoin(ofRootCause, joinsRootCause)
    .where(where)
    .orderBy(place, asc(findings.ordinal))
    .limit(wanted)
    .offset(from)
  return {
    total: groups.reduce((sum, group) => sum + group.total, 0),
    groups,
    findings: rows.map(({ body, network, rootCause, ...said }) => {
      const more = JSON.stringify({ network, rootCause, accepted: acceptedOf(said) })
      return `${toldBody(body).slice(0, -1)},${more.slice(1)}`
    }),
  }
}

export interface RootCausesFound {
  /** How many root causes, and findings, match. */
  readonly total: number
  readonly findings: number
  /** As JSON texts, each with how many of its findings match. */
  readonly rootCauses: string[]
}

/** The root causes of findings that match, the gravest first. */
export async function readRootCauses(
  db: Database,
  revisionId: number,
  { from, count: wanted, ...which }: FindingsMeant & Span,
): Promise<RootCausesFound> {
  const matching = await db
    .select({ fingerprint: findings.rootCause, total: count() })
    .from(findings)
    .where(meant(revisionId, which))
    .groupBy(findings.rootCause)
  const totals = new Map(matching.map(({ fingerprint, total }) => [fingerprint, total]))
  const { reason, author, until, fingerprint: said } = ofRootCause
  const rows = await db
    .select({
      fingerprint: rootCauses.fingerprint,
      body: rootCauses.body,
      accepted: { reason, author, until, fingerprint: said },
    })
    .from(rootCauses)
    .innerJoin(revisions, eq(revisions.id, rootCauses.revisionId))
    .leftJoin(ofRootCause, holds(ofRootCause, rootCauses.fingerprint))
    .where(eq(rootCauses.revisionId, revisionId))
    .orderBy(asc(rootCauses.ordinal))
  const found = rows.filter(({ fingerprint }) => totals.has(fingerprint))
  return {
    total: found.length,
    findings: matching.reduce((sum, { total }) => sum + total, 0),
    rootCauses: found.slice(from, from + wanted).map(({ fingerprint, body, accepted }) => {
      const isAccepted = accepted?.reason != null
      const more = { matching: totals.get(fingerprint), accepted: isAccepted ? accepted : null }
      return `${body.slice(0, -1)},${JSON.stringify(more).slice(1)}`
    }),
  }
}
