import { analyseStanding, type Consequences as StandingChange } from '../analysis/standing'
import type { Estate } from '../format/estate'
import { hopMemo } from '../hops/hops'
import { compile } from '../model/compile'
import { shareWith } from '../model/share'
import { budgetOf, type Budget } from './budget'
import { packetsAmong } from './packets'
import { candidatesOf } from './reach'
import { tellPackets, type ToldPackets } from './told'

/** What a state of an estate would bring about, against the one it is foreseen from. */
export interface Foreseen extends StandingChange {
  readonly packets: ToldPackets
}

/** A state that is kept, so that what follows from others is foreseen quickly. */
export interface Foresight {
  /** Foresees another state: findings, ways, expectations, and packets up to a budget. */
  readonly foresee: (next: Estate, budget?: Budget) => Foreseen
}

/**
 * Keeps everything that is known of an estate. Each foresight costs what differs, and the next hops
 * of the state that is foreseen; consequences are always those against the first estate.
 */
export function foresightOf(first: Estate): Foresight {
  const standing = analyseStanding(first)
  const before = compile(first)
  const known = hopMemo()
  return {
    foresee: (estate, budget = budgetOf(MOST_FORESEEN)) => {
      const next = shareWith(first, estate)
      const change = standing.change(next)
      standing.change(first)
      const pair = { before, after: compile(next, before) }
      const memo = { before: known, after: hopMemo() }
      const packets = packetsAmong(pair, candidatesOf(pair, memo), budget)
      return { ...change, packets: tellPackets(pair, packets) }
    },
  }
}

/** Pairs of walks for one foresight: some seconds at most. */
const MOST_FORESEEN = 20_000
