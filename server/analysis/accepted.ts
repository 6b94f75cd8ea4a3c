import { and, eq, gte, isNotNull, isNull, or, sql, type AnyColumn } from 'drizzle-orm'
import { alias } from 'drizzle-orm/pg-core'
import { acceptances, findings, revisions } from '../database/schema'

/** What was said of a finding itself, and of its root cause, whose acceptance holds for it too. */
export const ofFinding = alias(acceptances, 'of_finding')
export const ofRootCause = alias(acceptances, 'of_root_cause')

/** Joins what was said of a fingerprint, for as long as that holds. */
export const holds = (said: typeof ofFinding | typeof ofRootCause, fingerprint: AnyColumn) =>
  and(
    eq(said.estateId, revisions.estateId),
    eq(said.fingerprint, fingerprint),
    or(isNull(said.until), gte(said.until, sql`current_date`)),
  )

/** Join a finding with what was said when it was accepted, for as long as that holds. */
export const joinsFinding = holds(ofFinding, findings.fingerprint)
export const joinsRootCause = holds(ofRootCause, findings.rootCause)

/** Whether a finding is accepted, by itself or with its root cause. */
export const isAccepted = or(isNotNull(ofFinding.fingerprint), isNotNull(ofRootCause.fingerprint))!
