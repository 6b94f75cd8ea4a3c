import { modelAfter } from '../mend/attempt'
import { mend, type Mend } from '../mend/mend'
import { alternatives } from '../mend/recipes/alternatives'
import { situationOf } from '../mend/situation'
import type { Model } from '../model/model'
import { isRefusal, type Question } from '../trace/question'
import { trace, type Trace } from '../trace/trace'
import { verdictRank } from '../walk/causes'
import type { Branch } from '../trace/branch'

/** How far a search for changes that make a question work goes. */
export interface Effort {
  /** How many changes of the estate are asked with a trace. */
  readonly attempts: number
  /** How many faults of one path are mended together. */
  readonly depth: number
  /** How many ways of mending it are given. */
  readonly results: number
}

export const USUAL: Effort = { attempts: 80, depth: 4, results: 12 }

interface Node {
  readonly model: Model
  readonly answer: Trace
  readonly made: readonly Mend[]
}

/**
 * Ways of making a question work there and back, fewest changes first, each tried with a trace. A
 * search in width: at the first fault of a state every alternative is made, and what brings the
 * packet further is searched on. Costs a compilation of what changes and a trace for each attempt.
 */
export function* waysToLead(model: Model, question: Question, effort = USUAL): Generator<Mend> {
  const first = trace(model, question)
  if (isRefusal(first)) return
  let attempts = 0
  let results = 0
  const pending: Node[] = [{ model, answer: first, made: [] }]
  for (let node = pending.shift(); node; node = pending.shift()) {
    if (node.answer.cause === null) continue
    for (const one of remedies(node, question)) {
      if (++attempts > effort.attempts || results >= effort.results) return
      const next = modelAfter(node.model, one.changes)
      const answer = next === null ? null : trace(next, question)
      if (next === null || answer === null || isRefusal(answer)) continue
      const made = [...node.made, one]
      if (answer.cause === null) {
        results++
        yield joined(made)
      } else if (made.length < effort.depth && isFurther(answer, node.answer))
        pending.push({ model: next, answer, made })
    }
  }
}

function remedies({ model, answer }: Node, question: Question): Mend[] {
  // A recipe may have to look at what lies beyond the fault.
  const beyond = trace(model, { ...question, continue: true })
  const shown = isRefusal(beyond) ? answer : beyond
  const cause = shown.cause ?? answer.cause!
  return alternatives(situationOf(model, shown, cause, cause.station))
}

/** Several mends as one. */
export function joined(made: readonly Mend[]): Mend {
  const whole = mend(
    made.map(({ what }) => what).join('; '),
    made.flatMap(({ changes }) => changes),
    made.flatMap(({ blanks }) => blanks ?? []),
  )!
  const asNeighbours = made.flatMap((one) => one.asNeighbours ?? [])
  const closing = made.flatMap((one) => one.closing ?? [])
  return {
    ...whole,
    ...(asNeighbours.length > 0 ? { asNeighbours } : {}),
    ...(closing.length > 0 ? { closing } : {}),
  }
}

/** Fewer branches fail, the worst fails later, or it fails for another reason at the same place. */
function isFurther(after: Trace, before: Trace): boolean {
  const [less, more] = [failing(after), failing(before)]
  if (less !== more) return less < more
  const [a, b] = [progress(after), progress(before)]
  if (a !== b) return a > b
  return (
    verdictRank(after.verdict) < verdictRank(before.verdict) ||
    after.cause?.code !== before.cause?.code
  )
}

const failing = (answer: Trace): number =>
  answer.branches.filter((one) => one.cause !== null).length
const progress = ({ cause }: Branch): number =>
  cause === null ? Infinity : (cause.direction === 'return' ? 1000 : 0) + cause.station
