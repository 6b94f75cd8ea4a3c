import type { ExpectationResult } from '../expectations/expectations'
import { hopMemo, type HopMemo } from '../hops/hops'
import { kept } from '../kept'
import { derivedAndCompared, sameItems } from '../model/derived'
import type { Model } from '../model/model'
import { checkAnswers, checkInspection, checkWaysBack } from './answers'
import { checkNats, checkOverlaps, checkPartners } from './elements'
import { checkEphemeral } from './ephemeral'
import { byGravity, together, type Finding } from './finding'
import { checkFromInternet } from './from-internet'
import { checkIdle } from './idle'
import { checkRoundFirewall } from './round-firewall'
import { checkLearned, checkRoutes } from './routes'
import { checkIdleSets, checkRules, checkWithoutRules } from './rules'
import { checkRulesAndRoutes } from './rules-and-routes'
import { checkSegments } from './segments'
import { surveyOf, type Check, type Subject, type Survey } from './survey'
import { checkNames, checkNameServers, checkQuotas, checkRoles, checkTags, checkDefaultTables } from './upkeep'
import { checkWays } from './ways'

/** Every check, by what it is about; each group is one step of an analysis. */
export const CHECKS: readonly (readonly [about: string, checks: readonly Check[]])[] = [
  ['ways out', [checkWays]],
  ['routes', [checkRoutes, checkLearned]],
  ['ways round firewalls', [checkRoundFirewall]],
  ['answers', [checkAnswers, checkWaysBack, checkInspection]],
  ['what the internet reaches', [checkFromInternet]],
  ['answers that stateless rules stop', [checkEphemeral]],
  ['rules and routes', [checkRulesAndRoutes]],
  ['segments', [checkSegments]],
  ['elements', [checkNats, checkOverlaps, checkPartners, checkIdle]],
  ['rules', [checkRules, checkWithoutRules, checkIdleSets]],
  ['upkeep', [checkRoles, checkDefaultTables, checkQuotas, checkTags, checkNameServers, checkNames]],
]

export interface Findings {
  readonly findings: readonly Finding[]
  readonly expectations: readonly ExpectationResult[]
}

/** Told before each step: what is looked at, and how much of all is done. Returning true ends the analysis. */
export type Progress = (about: string, done: number, of: number) => unknown

/** What each check found at each of its subjects: kept, so that after a change only what it touches is looked at again. */
export interface Search {
  readonly survey: Survey
  readonly found: ReadonlyMap<Check, Map<Subject, readonly Finding[]>>
  /** The same, some subjects at a time, and a step at a time. */
  readonly parts: Map<string, readonly Finding[]>
  readonly steps: Map<string, readonly Finding[]>
}

export const searchOf = (model: Model, memo: HopMemo = hopMemo()): Search => ({
  survey: surveyOf(model, memo),
  found: new Map(CHECKS.flatMap(([, checks]) => checks.map((one) => [one, new Map<Subject, readonly Finding[]>()]))),
  parts: new Map(),
  steps: new Map(),
})

/** What the checks of a step find, one finding for each fingerprint. */
export const findingsOf = ({ survey, found, parts, steps }: Search, about: string, checks: readonly Check[]): readonly Finding[] =>
  kept(steps, about, () => {
    const known = new Map<string, Finding>()
    for (const check of checks) {
      const bySubject = found.get(check)!
      const subjects = subjectsOf(survey, check)
      // So many at a time: where none of them differs, nobody looks at each.
      for (let at = 0; at < subjects.length; at += SUBJECTS_AT_ONCE) {
        const part = kept(parts, `${about} ${checks.indexOf(check)} ${at}`, () =>
          subjectsOf(survey, check)
            .slice(at, at + SUBJECTS_AT_ONCE)
            .flatMap((subject) => kept(bySubject, subject, () => check.find(survey, subject as never))),
        )
        for (const each of part) {
          const before = known.get(each.fingerprint)
          known.set(each.fingerprint, before ? together(before, each, check.joinsRanges) : each)
        }
      }
    }
    return [...known.values()]
  })

const SUBJECTS_AT_ONCE = 100

const numbers = new Map(CHECKS.flatMap(([, checks]) => checks).map((check, number) => [check, number]))

const subjectsOf = (survey: Survey, check: Check): readonly Subject[] =>
  derivedAndCompared(survey.model, `subjects of check ${numbers.get(check)}`, () => check.subjects(survey), sameItems)

/** What became of every expectation that is there. */
export const expectationsOf = ({ survey }: Search): ExpectationResult[] =>
  [...survey.model.estate.expectations].flatMap(([id, { state }]) => (state === 'deleted' ? [] : [survey.expectation(id)]))

/**
 * Everything that is wrong with an estate, and what became of its expectations; null where it was
 * ended. Throws a RangeError where the packets of one source
 * fall into more kinds than are walked (`MOST_WALKS`).
 */
export const findAll = (model: Model, memo?: HopMemo, progress?: Progress): Findings | null => findIn(searchOf(model, memo), progress)

/** The same in a search that may have looked before. */
export function findIn(search: Search, progress?: Progress): Findings | null {
  const steps = CHECKS.length + 1
  if (progress?.('expectations', 0, steps) === true) return null
  const expectations = expectationsOf(search)
  const findings: Finding[] = []
  for (const [index, [about, checks]] of CHECKS.entries()) {
    if (progress?.(about, index + 1, steps) === true) return null
    for (const each of findingsOf(search, about, checks)) findings.push(each)
  }
  return { findings: findings.sort(byGravity), expectations }
}
