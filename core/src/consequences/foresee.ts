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
import { lastOf } from '../flows/steps'
import { packetsInTurns } from './packets'
import { candidatesOf } from './reach'
import { seenAsChanges, type SeenAsChange } from './seen-as'
import { tellPackets, type ToldPackets } from './told'

/**
 * What is known at once of what a state of an estate would bring about, against the one it is
 * foreseen from.
 */
export interface ForeseenAtOnce extends Omit<StandingChange, 'expectations'> {
  /** Expectations that say another thing than before. */
  readonly expectations: readonly ForeseenExpectation[]
  /** Parties that see the subnets whose ways differ at other addresses. */
  readonly seenAs: readonly SeenAsChange[]
  readonly money: MoneyChange | null
}

/** All of it, with the packets that differ. */
export interface Foreseen extends ForeseenAtOnce {
  readonly packets: ToldPackets
}

/** What is known so far: packets are null until all of them are compared. */
export type ForeseenSoFar = ForeseenAtOnce & { readonly packets: ToldPackets | null }

export interface ForeseenExpectation extends ExpectationResult {
  /** Its state before; null for one that was not there. */
  readonly before: ExpectationResult['state'] | null
}

/** A state that is kept, so that what follows from others is foreseen quickly. */
export interface Foresight {
  /** Foresees another state: findings, ways, expectations, and packets up to a budget. */
  readonly foresee: (next: Estate, budget?: Budget) => Foreseen
  /**
   * The same in two parts, since packets take longer: they are compared in turns, between which
   * others may come first.
   */
  readonly foreseeInTurns: (next: Estate, budget?: Budget) => ForeseenInTurns
}

export interface ForeseenInTurns {
  readonly atOnce: ForeseenAtOnce
  readonly packets: Generator<void, ToldPackets, void>
}

/**
 * Keeps everything that is known of an estate. Each foresight costs what differs from the one
 * before it; consequences are always those against the first estate.
 */
export function foresightOf(first: Estate): Foresight {
  const standing = analyseStanding(first, { wantsRouting: true })
  const states = new Map(standing.standing().expectations.map(({ id, state }) => [id, state]))
  const known = hopMemo()
  const model = compile(first)
  const before = { model, ways: waysOf(model, known), routing: standing.routing() }
  /** The state that was asked about last: the next one is likely to be much like it. */
  let last = first
  const foreseeInTurns = (
    estate: Estate,
    budget: Budget = budgetOf(MOST_FORESEEN),
  ): ForeseenInTurns => {
    const next = shareWith(last, shareWith(first, estate))
    standing.take(next)
    last = next
    const change = standing.sinceFirst()
    const routing = standing.routing()
    const pair = { before: model, after: compile(next, model) }
    const memo = { before: known, after: hopMemo() }
    function* packets(): Generator<void, ToldPackets, void> {
      const after = { model: pair.after, ways: waysOf(pair.after, memo.after), routing }
      const candidates = candidatesOf(pair, waysBetween(before, after))
      return tellPackets(pair, yield* packetsInTurns(pair, candidates, budget))
    }
    const moved = new Set(change.exits.map(({ subnet }) => subnet))
    return {
      atOnce: {
        ...change,
        expectations: change.expectations.map((one) => ({
          ...one,
          before: states.get(one.id) ?? null,
        })),
        seenAs: seenAsChanges(pair, moved, memo),
        money: moneyChange(first, next),
      },
      packets: packets(),
    }
  }
  return {
    foreseeInTurns,
    foresee: (estate, budget) => {
      const { atOnce, packets } = foreseeInTurns(estate, budget)
      return { ...atOnce, packets: lastOf(packets) }
    },
  }
}

/** Pairs of walks for one foresight: some seconds at most. */
const MOST_FORESEEN = 20_000
