import type { Model } from '../model/model'
import { isRefusal, type Question, type Refusal } from '../trace/question'
import { trace, type Trace } from '../trace/trace'
import type { Branch } from '../trace/branch'
import { verdictRank, type Cause } from '../walk/causes'
import { modelAfter } from './attempt'
import { RECIPES } from './recipes/by-cause'
import type { Mend } from './mend'
import { situationOf } from './situation'

/** What mends one fault. */
export interface PlannedMend extends Mend {
  /** The fault it mends; null where a packet is stopped that got where it should not. */
  readonly code: Cause['code'] | null
  readonly object: string
}

/** Mends in the order in which they help, each found in the estate with those before it made. */
export interface MendPlan {
  readonly mends: readonly PlannedMend[]
  /** Whether the question works once all are made. */
  readonly works: boolean
  /** The fault at which no change of the estate alone helps any more. */
  readonly stuckAt: Cause | null
}

/** A plan holds at most this many mends; a path with more faults needs a redesign. */
const MOST = 8

/**
 * What would make a question work, fault by fault in the smallest way: each change is tried in the
 * estate, and only what brings the packet further is taken. The changes can be made with
 * `apply`. Costs a walk and a partial compilation for each fault. Never throws on any estate.
 */
export function mendsOf(model: Model, question: Question): MendPlan | Refusal {
  const mends: PlannedMend[] = []
  let current = model
  let answer = trace(current, question)
  if (isRefusal(answer)) return answer
  // The point up to which the packet gets further. A mend that only replaces one fault by another
  // counts only if the question works in the end.
  let further = { mends: 0, stuckAt: answer.cause }
  while (answer.cause !== null && mends.length < MOST) {
    const found: Tried | null = tryMend(current, question, answer)
    if (found === null) break
    mends.push(found.mend)
    current = found.model
    answer = found.answer
    if (found.further) further = { mends: mends.length, stuckAt: answer.cause }
  }
  if (answer.cause === null) return { mends, works: true, stuckAt: null }
  return { mends: mends.slice(0, further.mends), works: false, stuckAt: further.stuckAt }
}

interface Tried {
  readonly mend: PlannedMend
  readonly model: Model
  readonly answer: Trace
  readonly further: boolean
}

function tryMend(model: Model, question: Question, answer: Trace): Tried | null {
  // A recipe may have to look at what lies beyond the fault.
  const beyond = trace(model, { ...question, continue: true })
  if (isRefusal(beyond)) return null
  const cause = beyond.cause!
  const remedy = RECIPES[cause.code](situationOf(model, beyond, cause, cause.station))
  if (remedy === null) return null
  const changed = modelAfter(model, remedy.changes)
  if (changed === null) return null
  const after = trace(changed, question)
  if (isRefusal(after)) return null
  const further = isFurther(after, answer)
  const exchanged =
    after.cause !== null && after.cause.code !== cause.code && progress(after) === progress(answer)
  return further || exchanged
    ? {
        mend: { code: cause.code, object: cause.object, ...remedy },
        model: changed,
        answer: after,
        further,
      }
    : null
}

/** Whether a packet gets further than before: fewer branches fail, or the worst fails later. */
function isFurther(after: Trace, before: Trace): boolean {
  if (after.cause === null) return true
  const [less, more] = [failing(after), failing(before)]
  if (less !== more) return less < more
  return (
    progress(after) > progress(before) || verdictRank(after.verdict) < verdictRank(before.verdict)
  )
}

const failing = (answer: Trace): number =>
  answer.branches.filter((one) => one.cause !== null).length
const progress = ({ cause }: Branch): number =>
  (cause!.direction === 'return' ? 1000 : 0) + cause!.station
