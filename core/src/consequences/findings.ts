import type { ExpectationResult } from '../expectations/expectations'
import {
  byGravity,
  SEVERITIES,
  withoutMend,
  type Finding,
  type ToldFinding,
} from '../findings/finding'

/** A finding that is no more, as far as it still needs to be told. */
export type GoneFinding = Pick<Finding, 'fingerprint' | 'code' | 'anchor' | 'severity'>

/** How the findings of two states differ. */
export interface FindingChanges {
  readonly came: readonly ToldFinding[]
  readonly went: readonly GoneFinding[]
  /** Findings of both states that say another thing. */
  readonly changed: readonly { readonly before: ToldFinding; readonly after: ToldFinding }[]
}

/**
 * The findings that come, go, or say another thing, gravest first. One whose severity rises counts
 * as come, since it is as bad as a new one. Costs a step for each finding, and a text of those that
 * are not the same object.
 */
export function findingChanges(
  before: readonly Finding[],
  after: readonly Finding[],
): FindingChanges {
  const left = new Map(before.map((one) => [one.fingerprint, one] as const))
  const came: ToldFinding[] = []
  const changed: { before: ToldFinding; after: ToldFinding }[] = []
  for (const one of after) {
    const old = left.get(one.fingerprint)
    left.delete(one.fingerprint)
    if (old === undefined || isGraver(one, old)) came.push(withoutMend(one))
    else if (old !== one && saysOf(old) !== saysOf(one))
      changed.push({ before: withoutMend(old), after: withoutMend(one) })
  }
  const went = [...left.values()].sort(byGravity)
  return {
    came: came.sort(byGravity),
    went: went.map(({ fingerprint, code, anchor, severity }) => ({
      fingerprint,
      code,
      anchor,
      severity,
    })),
    changed: changed.sort((a, b) => byGravity(a.after, b.after)),
  }
}

const isGraver = (a: Finding, b: Finding): boolean =>
  SEVERITIES.indexOf(a.severity) < SEVERITIES.indexOf(b.severity)

/** All a finding says; how it is mended is no part of it. */
const saysOf = (finding: Finding): string => JSON.stringify(withoutMend(finding))

export interface ExpectationChange {
  readonly id: string
  /** Null where the expectation is not there. */
  readonly before: ExpectationResult['state'] | null
  readonly after: ExpectationResult['state'] | null
}

/** The expectations whose state is not what it was, in the order of the later state. */
export function expectationChanges(
  before: readonly ExpectationResult[],
  after: readonly ExpectationResult[],
): readonly ExpectationChange[] {
  const olds = new Map(before.map(({ id, state }) => [id, state] as const))
  const news = new Map(after.map(({ id, state }) => [id, state] as const))
  return [...new Set([...news.keys(), ...olds.keys()])].flatMap((id) => {
    const [was, is] = [olds.get(id) ?? null, news.get(id) ?? null]
    return was === is ? [] : [{ id, before: was, after: is }]
  })
}
