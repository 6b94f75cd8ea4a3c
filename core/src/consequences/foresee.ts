import { analyseStanding, type Consequences as StandingChange } from '../analysis/standing'
import type { ExpectationResult } from '../expectations/expectations'
import type { Estate } from '../format/estate'
import { hopMemo } from '../hops/hops'
import { MOST_SUBNETS_KEPT, waysOf } from '../hops/ways'
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
  const keepsWays = first.subnets.size <= MOST_SUBNETS_KEPT
  const standing = analyseStanding(first, { wantsWays: keepsWays })
  const states = new Map(standing.standing().expectations.map(({ id, state }) => [id, state]))
  const before = compile(first)
  const known = hopMemo()
  const found = waysOf(before, known)
  return {
    foresee: (estate, budget = budgetOf(MOST_FORESEEN)) => {
      const next = shareWith(first, estate)
      const waysBefore = standing.ways()
      const change = standing.change(next)
      const waysAfter = standing.ways()
      standing.change(first)
      const pair = { before, after: compile(next, before) }
      const memo = { before: known, after: hopMemo() }
      const ways = keepsWays
        ? { before: waysBefore, after: waysAfter }
        : { before: found, after: waysOf(pair.after, memo.after) }
      const packets = packetsAmong(pair, candidatesOf(pair, ways), budget)
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
