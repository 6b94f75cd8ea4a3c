import { mend, type Mend } from '../mend/mend'
import { mendsOf, type MendPlan } from '../mend/plan'
import { stopsOf } from '../mend/stopping'
import type { Model } from '../model/model'
import { isRefusal, type Question } from '../trace/question'
import type { Finding } from './finding'
import { FINDINGS } from './records'

/** A packet that a mend is tried with, and whether the mend is to stop it. */
export interface Trial {
  readonly question: Question
  readonly stops: boolean
}

/**
 * The packet by which the mend of a finding is found; null for a finding whose check names its
 * mend, or has no packet to show. A trace of the same packet brings the same mends.
 */
export function trialOf({ code, evidence: { question } }: Finding): Trial | null {
  const { mended } = FINDINGS[code]
  return question !== null && (mended === 'by-leading' || mended === 'by-stopping')
    ? { question, stops: mended === 'by-stopping' }
    : null
}

/**
 * The smallest change that mends a finding: found by trying, else the one its check names. Costs
 * some walks and partial compilations where it is tried. Throws as `trace` does.
 */
export function mendOf(model: Model, finding: Finding): Mend | null {
  const trial = trialOf(finding)
  if (trial === null) return finding.mend
  const plan = (trial.stops ? stopsOf : mendsOf)(model, trial.question)
  return isRefusal(plan) ? null : joined(plan)
}

/** All mends of a plan as one. */
const joined = ({ mends }: MendPlan): Mend | null =>
  mends.length === 0
    ? null
    : mend(
        mends.map(({ what }) => what).join('; '),
        mends.flatMap(({ changes }) => changes),
        mends.flatMap(({ blanks }) => blanks ?? []),
      )
