import { LRUCache } from 'lru-cache'
import {
  apply,
  budgetOf,
  complete,
  foresightOf,
  readChange,
  type Estate,
  type Foreseen,
  type Foresight,
} from '@salt-trail/core'
import { baseOrRefused, notMade, stateAt, validOrRefused, type OpenDraft } from './editing'

/** What a draft brings about, and how long it took to find that. */
export interface ForeseenState {
  readonly consequences: Foreseen
  readonly milliseconds: number
}

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

/**
 * What a draft brings about against its base, with changes that are being typed: the same that a
 * browser finds of a smaller estate.
 */
export function foresee(open: OpenDraft, pending: unknown): ForeseenState {
  const base = baseOrRefused(open)
  const now = stateAt(open)
  const read = readChange(now, pending)
  if (!read.ok) throw notMade(read)
  const made = apply(now, complete(now, read.change))
  if (!made.ok) throw notMade(made)
  validOrRefused(made.estate, now)
  const foresight = foresightFrom(open.draft.baseId!, base)
  const begun = performance.now()
  const end = begun + MOST_MILLISECONDS
  const budget = budgetOf(MOST_PAIRS, () => performance.now() > end)
  const consequences = foresight.foresee(made.estate, budget)
  return { consequences, milliseconds: performance.now() - begun }
}
