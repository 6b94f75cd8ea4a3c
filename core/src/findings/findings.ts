import { derived, sameItems } from '../incremental/derived'
import type { ExpectationResult } from '../expectations/expectations'
import { hopMemo, type HopMemo } from '../hops/hops'
import { cached } from '../incremental/cells'
import type { Model } from '../model/model'
import {
  byGravity,
  findingsByFingerprint,
  unique,
  type Finding,
  type FindingsByFingerprint,
} from './finding'
import { CHECKS } from './records'
import { findUnlike } from './weak-spots/unlike'
import { checkContext, modelOf, type Check, type Subject, type CheckContext } from './survey'

export interface Findings {
  readonly findings: readonly Finding[]
  readonly expectations: readonly ExpectationResult[]
}

/**
 * Told before each step: what is looked at, and how much of all is done. Returning true ends the
 * analysis.
 */
export type Progress = (about: string, done: number, of: number) => unknown

/**
 * What each check found at each of its subjects, cached: after a change only the subjects it
 * touches are checked again.
 */
export interface FindingCache {
  readonly survey: CheckContext
  readonly found: ReadonlyMap<Check, Map<Subject, readonly Finding[]>>
  /** The same in blocks of subjects, and for whole steps. */
  readonly parts: Map<string, readonly Finding[]>
  readonly steps: Map<string, readonly Finding[]>
}

/** An empty cache for the findings of a model. */
export const findingCache = (model: Model, memo: HopMemo = hopMemo()): FindingCache => ({
  survey: checkContext(model, memo),
  found: new Map(
    CHECKS.flatMap(([, checks]) =>
      checks.map((one) => [one, new Map<Subject, readonly Finding[]>()]),
    ),
  ),
  parts: new Map(),
  steps: new Map(),
})

/** What the checks of a step find, one finding for each fingerprint. */
export const findingsOf = (
  { survey, found, parts, steps }: FindingCache,
  about: string,
  checks: readonly Check[],
): readonly Finding[] =>
  cached(steps, about, () => {
    const known = findingsByFingerprint()
    for (const check of checks) {
      const bySubject = found.get(check)!
      const subjects = subjectsOf(survey, check)
      // Subjects are cached in blocks: a block in which nothing changed is taken over as a whole.
      for (let at = 0; at < subjects.length; at += SUBJECTS_AT_ONCE) {
        const part = cached(parts, `${about} ${checks.indexOf(check)} ${at}`, () =>
          subjectsOf(survey, check)
            .slice(at, at + SUBJECTS_AT_ONCE)
            .flatMap((subject) =>
              cached(bySubject, subject, () => check.find(survey, subject as never)),
            ),
        )
        known.add(part, check.joinsRanges)
      }
    }
    return known.all()
  })

const SUBJECTS_AT_ONCE = 100

const EVERY_CHECK = CHECKS.flatMap(([, checks]) => checks)
const numbers = new Map(EVERY_CHECK.map((check, number) => [check, number]))

const subjectsOf = (survey: CheckContext, check: Check): readonly Subject[] =>
  subjectsOfNumber(survey, numbers.get(check)!)

const subjectsOfNumber = derived(
  (survey: CheckContext, number: number): readonly Subject[] =>
    EVERY_CHECK[number]!.subjects(survey),
  { same: sameItems, on: modelOf },
)

/** The result of every expectation. */
export const expectationsOf = ({ survey }: FindingCache): ExpectationResult[] =>
  standingExpectations(survey.model).map((id) => survey.expectation(id))

const standingExpectations = ({ estate }: Model): string[] =>
  [...estate.expectations].flatMap(([id, { state }]) => (state === 'deleted' ? [] : [id]))

/** A share of some work: its number, from 0, and how many shares there are. */
export interface Share {
  readonly number: number
  readonly of: number
}

/**
 * The members of a list that fall to a share; all shares together have every member once, in its
 * order.
 */
export const shareOf = <T>(list: readonly T[], { number, of }: Share): readonly T[] =>
  list.slice(Math.floor((list.length * number) / of), Math.floor((list.length * (number + 1)) / of))

/**
 * What was found in one share of the subjects, check by check. A fingerprint may occur in several
 * shares.
 */
export interface FoundShare {
  readonly found: readonly (readonly Finding[])[]
  readonly expectations: readonly ExpectationResult[]
}

const WHOLE: Share = { number: 0, of: 1 }
const SINGLE_CHECKS = CHECKS.flatMap(([about, checks]) =>
  checks.map((check) => [about, check] as const),
)

/** How many steps a share is told in: the expectations, and each group of checks. */
export const FINDING_STEPS = CHECKS.length + 1

/**
 * Makes all checks on a share of their subjects; null where it was ended. Throws as `findAll` does.
 */
export function findShare(
  model: Model,
  memo: HopMemo,
  share: Share,
  progress?: Progress,
): FoundShare | null {
  const survey = checkContext(model, memo)
  if (progress?.('expectations', 0, FINDING_STEPS) === true) return null
  const expectations = shareOf(standingExpectations(model), share).map((id) =>
    survey.expectation(id),
  )
  const found: (readonly Finding[])[] = []
  for (const [index, [about, checks]] of CHECKS.entries()) {
    if (progress?.(about, index + 1, FINDING_STEPS) === true) return null
    for (const check of checks) {
      const each = shareOf(subjectsOf(survey, check), share).flatMap((subject) =>
        check.find(survey, subject as never),
      )
      found.push(unique(each, check.joinsRanges))
    }
  }
  return { found, expectations }
}

/**
 * Joins all shares, in their order, and adds what is told of all findings together: equal to a
 * search of the whole estate.
 */
export function joinShares(model: Model, shares: readonly FoundShare[]): Findings {
  const steps = new Map<string, FindingsByFingerprint>()
  for (const [number, [about, { joinsRanges }]] of SINGLE_CHECKS.entries()) {
    const known = steps.get(about) ?? findingsByFingerprint()
    steps.set(about, known)
    for (const { found } of shares) known.add(found[number]!, joinsRanges)
  }
  return {
    findings: withUnlike(
      model,
      [...steps.values()].flatMap((step) => step.all()),
    ).sort(byGravity),
    expectations: shares.flatMap(({ expectations }) => expectations),
  }
}

/** The findings of all checks, with those that rest on them. Costs as `findUnlike` does. */
export const withUnlike = (model: Model, findings: readonly Finding[]): Finding[] => [
  ...findings,
  ...findUnlike(model, findings),
]

/**
 * Everything that is wrong with an estate, and what became of its expectations; null where it was
 * ended. Throws a RangeError where the packets of one source
 * fall into more kinds than are walked (`MOST_WALKS`).
 */
export function findAll(
  model: Model,
  memo: HopMemo = hopMemo(),
  progress?: Progress,
): Findings | null {
  const whole = findShare(model, memo, WHOLE, progress)
  return whole && joinShares(model, [whole])
}
