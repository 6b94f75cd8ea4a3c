import type { Model } from '../model/model'
import type { RulesEvidence } from '../rules/words'
import { isRefusal, type Question, type Refusal } from '../trace/question'
import { trace, type Trace } from '../trace/trace'
import type { Branch, StationJson } from '../trace/branch'
import { pointer } from '../changes/index'
import { modelAfter } from './attempt'
import type { PlannedMend, MendPlan } from './plan'
import { mend } from './mend'
import { removeRoutes } from './recipes/routes'
import { lookedUpLast } from './situation'

/** A plan takes out at most this many rules. */
const MOST = 6

/**
 * What would stop a packet that gets where it should not: the rules that let it in are taken out,
 * those nearest to its end first, else the route by which it came. Each change is tried in the
 * estate. `works` says whether it is stopped. Never throws on any estate.
 */
export function stopsOf(model: Model, question: Question): MendPlan | Refusal {
  const answer = trace(model, question)
  if (isRefusal(answer)) return answer
  const byRules = stopping(model, question, answer, ruleThatLet)
  return (
    byRules ??
    stopping(model, question, answer, routeThatLed) ?? {
      mends: [],
      works: !getsThrough(answer),
      stuckAt: null,
    }
  )
}

/**
 * Makes one change after the other until the packet is stopped; null where that does not stop it.
 */
function stopping(
  model: Model,
  question: Question,
  first: Trace,
  find: (model: Model, way: readonly StationJson[]) => PlannedMend | null,
): MendPlan | null {
  const mends: PlannedMend[] = []
  let [current, answer] = [model, first]
  while (getsThrough(answer) && mends.length < MOST) {
    const mend = find(current, wayOf(answer))
    if (mend === null) return null
    const changed = modelAfter(current, mend.changes)
    if (changed === null) return null
    current = changed
    const after = trace(current, question)
    if (isRefusal(after)) return null
    mends.push(mend)
    answer = after
  }
  return getsThrough(answer) ? null : { mends, works: true, stuckAt: null }
}

/** The first of its branches that is delivered. */
const delivered = (answer: Trace): Branch | undefined =>
  [answer, ...answer.branches].find((one) => one.forward.outcome === 'delivered')
const getsThrough = (answer: Trace): boolean => delivered(answer) !== undefined
const wayOf = (answer: Trace): readonly StationJson[] => delivered(answer)!.forward.stations

/** The rule of a set that let the packet on, nearest to where it ended up. */
function ruleThatLet(_: Model, way: readonly StationJson[]): PlannedMend | null {
  for (const { kind, evidence } of [...way].reverse()) {
    const levels = kind === 'rules' ? (evidence as Partial<RulesEvidence>).levels : undefined
    for (const { sets } of [...(levels ?? [])].reverse()) {
      for (const { set, rules, passes, decidedBy } of sets) {
        const rule =
          passes && decidedBy !== null ? rules.find((one) => one.entry === decidedBy) : undefined
        if (!rule || !set.startsWith('ruleSets/')) continue
        const id = set.slice('ruleSets/'.length)
        const found = mend(`take “${rule.says}” out of ${id}`, [
          { op: 'remove', path: pointer('ruleSets', id, 'rules', rule.entry) },
        ])
        return found && { ...found, code: null, object: set }
      }
    }
  }
  return null
}

/** The written route by which the packet came in. */
function routeThatLed({ estate }: Model, way: readonly StationJson[]): PlannedMend | null {
  const lookup = lookedUpLast(way)
  if (!lookup || lookup.table === null || lookup.entry < 0) return null
  const found = removeRoutes(estate, lookup.table, [lookup.entry])
  return found && { ...found, code: null, object: `routeTables/${lookup.table}` }
}
