import { closingsOf } from '../mend/closing'
import { mendsOf, type MendPlan } from '../mend/mend'
import type { Model } from '../model/model'
import { isRefusal, type Question } from '../trace/question'
import type { Finding, FindingMend } from './finding'
import { FINDINGS } from './records'

/**
 * What is tried to mend a finding whose check knows no change of its own: whether the packet that
 * shows it is to get there and be answered, or is to be stopped; null where no packet says what was
 * meant.
 */
export function soughtMend({
  code,
  mend,
  evidence,
}: Finding): { readonly question: Question; readonly stops: boolean } | null {
  if (mend !== null || evidence.question === null) return null
  const { sought } = FINDINGS[code]
  return sought && { question: evidence.question, stops: sought === 'stop' }
}

/**
 * The smallest change that would mend a finding: its check's own, else one found by trying. Costs
 * some walks and partial compilations.
 */
export function mendOf(model: Model, finding: Finding): FindingMend | null {
  const sought = soughtMend(finding)
  if (sought === null) return finding.mend
  const plan = (sought.stops ? closingsOf : mendsOf)(model, sought.question)
  return isRefusal(plan) ? null : mendFrom(plan)
}

const mendFrom = ({ mends }: MendPlan): FindingMend | null =>
  mends.length === 0
    ? null
    : {
        what: mends.map(({ sentence }) => sentence).join('; '),
        changes: mends.flatMap(({ changes }) => changes),
      }
