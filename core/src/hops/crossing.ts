import { nextAddress } from '../address/address'
import { partsWithin, type Range, type RangeSet } from '../address/ranges'
import type { Model } from '../model/model'
import { isIndividual, outcomesBeyond, type Wanted } from './behind'
import type { BeyondTransit, OnwardMemo, OnwardRange } from './onward'
import type { Outcome } from './outcome'

/** Destinations beyond a transit that share one outcome, in normal form. */
export interface Crossed {
  readonly outcome: Outcome
  readonly ranges: RangeSet
}

/**
 * What lies behind a transit, met with some destinations: for all who come there by a way that says
 * the same, and whose tables differ only in which spans they lead there.
 */
export interface Crossing {
  readonly shared: readonly Crossed[]
  /** Where it may be another for some senders, in ascending order. */
  readonly individual: readonly Range[]
}

/** Cached for as long as both the set of destinations and the outcomes beyond the transit are. */
const crossings = new WeakMap<readonly OnwardRange[], WeakMap<RangeSet, Crossing>>()

/** The outcomes beyond a transit for some destinations, in the family of a span. */
export function outcomesAcross(
  model: Model,
  memo: OnwardMemo,
  behind: BeyondTransit,
  destinations: RangeSet,
  span: Range,
  wanted: Wanted,
): Crossing {
  const joined = outcomesBeyond(model, memo, behind, span, wanted)
  let known = crossings.get(joined)
  if (!known) crossings.set(joined, (known = new WeakMap()))
  let crossing = known.get(destinations)
  if (!crossing) known.set(destinations, (crossing = cross(behind, joined, destinations)))
  return crossing
}

function cross(
  behind: BeyondTransit,
  joined: readonly OnwardRange[],
  destinations: RangeSet,
): Crossing {
  const shared = new Map<Outcome, Range[]>()
  const individual: Range[] = []
  for (const there of joined) {
    const parts = partsWithin(destinations, there)
    if (parts.length === 0) continue
    if (isIndividual(behind, there)) {
      individual.push({ from: there.from, to: there.to })
      continue
    }
    let list = shared.get(there.outcome)
    if (!list) shared.set(there.outcome, (list = []))
    for (const part of parts) {
      const last = list.at(-1)
      if (last && nextAddress(last.to) === part.from)
        list[list.length - 1] = { from: last.from, to: part.to }
      else list.push(part)
    }
  }
  return { shared: [...shared].map(([outcome, ranges]) => ({ outcome, ranges })), individual }
}
