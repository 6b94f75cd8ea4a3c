import { proveExpectations, type ExpectationResult } from '../expectations/expectations'
import { hopMemo, type HopMemo } from '../hops/hops'
import type { Model } from '../model/model'
import { checkAnswers } from './answers'
import { checkElements } from './elements'
import { byGravity, type Finding } from './finding'
import { checkEphemeral } from './ephemeral'
import { checkFromInternet } from './from-internet'
import { checkRoundFirewall } from './round-firewall'
import { checkRoutes } from './routes'
import { checkRules } from './rules'
import { checkRulesAndRoutes } from './rules-and-routes'
import { checkSegments } from './segments'
import { surveyOf, type Check } from './survey'
import { checkUpkeep } from './upkeep'
import { checkWays } from './ways'

/** Every check, by what it is about; each is one step of an analysis. */
export const CHECKS: readonly (readonly [about: string, check: Check])[] = [
  ['ways out', checkWays],
  ['routes', checkRoutes],
  ['ways round firewalls', checkRoundFirewall],
  ['answers', checkAnswers],
  ['what the internet reaches', checkFromInternet],
  ['answers that stateless rules stop', checkEphemeral],
  ['rules and routes', checkRulesAndRoutes],
  ['segments', checkSegments],
  ['elements', checkElements],
  ['rules', checkRules],
  ['upkeep', checkUpkeep],
]

export interface Findings {
  readonly findings: readonly Finding[]
  readonly expectations: readonly ExpectationResult[]
}

/** Told before each step: what is looked at, and how much of all is done. Returning true ends the analysis. */
export type Progress = (about: string, done: number, of: number) => unknown

/**
 * Everything that is wrong with an estate, and what became of its expectations; null where it was
 * ended. Throws a RangeError where the packets of one source
 * fall into more kinds than are walked (`MOST_WALKS`).
 */
export function findAll(model: Model, memo: HopMemo = hopMemo(), progress?: Progress): Findings | null {
  const steps = CHECKS.length + 1
  if (progress?.('expectations', 0, steps) === true) return null
  const expectations = proveExpectations(model, model.estate.expectations, memo)
  const survey = surveyOf(model, memo, expectations)
  const findings: Finding[] = []
  for (const [index, [about, check]] of CHECKS.entries()) {
    if (progress?.(about, index + 1, steps) === true) return null
    for (const each of check(survey)) findings.push(each)
  }
  return { findings: findings.sort(byGravity), expectations }
}
