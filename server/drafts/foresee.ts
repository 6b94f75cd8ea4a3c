import { LRUCache } from 'lru-cache'
import {
  apply,
  budgetOf,
  complete,
  foresightOf,
  readChange,
  type Estate,
  type ForeseenAtOnce,
  type ForeseenSoFar,
  type Foresight,
  type ToldPackets,
} from '@salt-trail/core'
import { baseOrRefused, notMade, stateAt, validOrRefused, type OpenDraft } from './editing'

/** What a draft brings about, and how long it took to find that. */
export interface ForeseenState {
  readonly consequences: ForeseenSoFar
  readonly milliseconds: number
}

/** Whether packets are compared at once, not yet, or a while longer. */
export type PacketsWanted = 'all' | 'later' | 'more'

/** Packets are compared no longer than this; what is left out then is told. */
const MOST_MILLISECONDS = 3_000
const MOST_PAIRS = 20_000

/** All that is known of the base that was foreseen from last; one, since it takes much memory. */
const known = new LRUCache<number, Foresight>({ max: 1 })

function foresightFrom(id: number, base: Estate): Foresight {
  const held = known.get(id)
  if (held) return held
  const foresight = foresightOf(base)
  known.set(id, foresight)
  return foresight
}

/** What was foreseen last, with the packets that are still to be compared. */
interface Unfinished {
  readonly key: string
  readonly atOnce: ForeseenAtOnce
  readonly packets: Generator<void, ToldPackets, void>
  /** How long it took so far. */
  milliseconds: number
}
let unfinished: Unfinished | null = null

/** Packets are compared for so long where a while longer is wanted. */
const TURN_MILLISECONDS = 200

/**
 * What a draft brings about against its base, with changes that are being typed: the same that a
 * browser finds of a smaller estate. Packets that are wanted later are compared in turns, so that a
 * newer question need not wait for those of the one before.
 */
export function foresee(open: OpenDraft, pending: unknown, wanted: PacketsWanted): ForeseenState {
  const key = JSON.stringify([open.draft.id, open.draft.version, open.draft.baseId, pending])
  const isKnown = wanted === 'more' && unfinished?.key === key
  const now = isKnown ? unfinished! : begun(open, pending, key)
  unfinished = null
  // What is no longer known was displaced by another question: it is finished, lest the two go on
  // displacing each other.
  const packets = wanted === 'later' ? null : comparedUntil(now, isKnown)
  if (packets === null) unfinished = now
  return { consequences: { ...now.atOnce, packets }, milliseconds: now.milliseconds }
}

/** All but packets. */
function begun(open: OpenDraft, pending: unknown, key: string): Unfinished {
  const base = baseOrRefused(open)
  const now = stateAt(open)
  const read = readChange(now, pending)
  if (!read.ok) throw notMade(read)
  const made = apply(now, complete(now, read.change))
  if (!made.ok) throw notMade(made)
  validOrRefused(made.estate, now)
  const foresight = foresightFrom(open.draft.baseId!, base)
  const start = performance.now()
  const budget = budgetOf(MOST_PAIRS, () => performance.now() > start + MOST_MILLISECONDS)
  const { atOnce, packets } = foresight.foreseeInTurns(made.estate, budget)
  return { key, atOnce, packets, milliseconds: performance.now() - start }
}

/** Compares packets to the end, or for one turn; null where some are left. */
function comparedUntil(now: Unfinished, isOneTurn: boolean): ToldPackets | null {
  const start = performance.now()
  const end = isOneTurn ? start + TURN_MILLISECONDS : Infinity
  try {
    do {
      const turn = now.packets.next()
      if (turn.done) return turn.value
    } while (performance.now() < end)
    return null
  } finally {
    now.milliseconds += performance.now() - start
  }
}
