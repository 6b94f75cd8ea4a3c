import { analyseStanding, type Consequences as StandingChange } from '../analysis/standing'
import { waysBetween } from '../compare/routing'
import type { ExpectationResult } from '../expectations/expectations'
import type { Estate } from '../format/estate'
import { hopMemo } from '../hops/hops'
import { waysOf } from '../hops/ways'
import { compile } from '../model/compile'
import { shareWith } from '../model/share'
import { budgetOf, type Budget } from './budget'
import { moneyChange, type MoneyChange } from './money'
import { packetsAmong } from './packets'
import { candidatesOf } from './reach'
import { seenAsChanges, type SeenAsChange } from './seen-as'
import { tellPackets, type ToldPackets } from './told'

/** What a state of an estate would bring about, against the one it is foreseen from. */
export interface Foreseen extends Omit<StandingChange, 'expectations'> {
  /** Expectations that say another thing than before. */
  readonly expectations: readonly ForeseenExpectation[]
  readonly packets: ToldPackets
  /** Parties that see the subnets whose ways differ at other addresses. */
  readonly seenAs: readonly SeenAsChange[]
  readonly money: MoneyChange | null
}

export interface ForeseenExpectation extends ExpectationResult {
  /** Its state before; null for one that was not there. */
  readonly before: ExpectationResult['state'] | null
}

/** A state that is kept, so that what follows from others is foreseen quickly. */
export interface Foresight {
  /** Foresees another state: findings, ways, expectations, and packets up to a budget. */
  readonly foresee: (next: Estate, budget?: Budget) => Foreseen
}

/**
 * Keeps everything that is known of an estate. Each foresight costs what differs;
 * consequences are always those against the first estate.
 */
export function foresightOf(first: Estate): Foresight {
  const standing = analyseStanding(first, { wantsRouting: true })
  const states = new Map(standing.standing().expectations.map(({ id, state }) => [id, state]))
  const known = hopMemo()
  const model = compile(first)
  const before = { model, ways: waysOf(model, known), routing: standing.routing() }
  return {
    foresee: (estate, budget = budgetOf(MOST_FORESEEN)) => {
      const next = shareWith(first, estate)
      const change = standing.change(next)
      const routing = standing.routing()
      standing.change(first)
      const pair = { before: model, after: compile(next, model) }
      const memo = { before: known, after: hopMemo() }
      const after = { model: pair.after, ways: waysOf(pair.after, memo.after), routing }
      const candidates = candidatesOf(pair, waysBetween(before, after))
      const packets = packetsAmong(pair, candidates, budget)
      const moved = new Set(change.exits.map(({ subnet }) => subnet))
      return {
        ...change,
        expectations: change.expectations.map((one) => ({
          ...one,
          before: states.get(one.id) ?? null,
        })),
        packets: tellPackets(pair, packets),
        seenAs: seenAsChanges(pair, moved, memo),
        money: moneyChange(first, next),
      }
    },
  }
}

/** Pairs of walks for one foresight: some seconds at most. */
const MOST_FORESEEN = 20_000
