import {
  compareAddresses,
  nextAddress,
  previousAddress,
  type Address,
  type Family,
} from '../address/address'
import {
  firstFrom,
  firstPart,
  sameRanges,
  partsWithin,
  subtractRanges,
  type Range,
  type RangeSet,
} from '../address/ranges'
import { memoStable } from '../incremental/cells'
import type { Grain } from '../incremental/grain'
import type { Model, SubnetModel } from '../model/model'
import { EVERYTHING, type Wanted } from './behind'
import { outcomesAcross, type Crossed } from './crossing'
import type { HopMemo, HopTable, Part } from './hops'
import { meetSpans, type BeyondTransit } from './onward'
import { identity, intern, type Outcome } from './outcome'
import { expandRange, type Hop, type HopRange } from './sweep'

export interface Meeting {
  /** Which of the outcomes are asked for. */
  readonly wanted?: Wanted
  /** So many ranges of each outcome are listed, and the others counted. */
  readonly most?: number
  /**
   * Some of the destinations that are not meant: so a set that many share need not be copied
   * without them.
   */
  readonly without?: RangeSet
}

const NOTHING: RangeSet = []

/**
 * The outcomes of a kind of host within some destinations, with the ranges of each; only the wanted
 * ones.
 */
export function outcomesWithin(
  model: Model,
  subnet: SubnetModel,
  table: HopTable,
  family: Family,
  destinations: RangeSet,
  memo: HopMemo,
  { wanted = EVERYTHING, most = Infinity, without = NOTHING }: Meeting = {},
): Part[] {
  // Subnets with the same routing share this, except for causes that are their own.
  const ranges = table.shared[family]
  const home = subnet.table >= 0 ? '' : subnet.ref
  const key = `${identity(ranges)} ${wanted.name} ${most} ${identity(without)} ${home} ${table.kind.hasPublicAddress ? table.kind.ref : ''}`
  let found = memo.meetings.get(destinations)
  if (!found) memo.meetings.set(destinations, (found = new Map()))
  const meet = (): Part[] =>
    meetShared({ model, subnet, table, ranges, destinations, memo, wanted, without }, most)
  const parts = memoStable(found, key, meet, sameParts)
  return parts.map((part) => {
    const outcome = table.named(part.outcome)
    return outcome === part.outcome ? part : { ...part, outcome: intern(memo, outcome) }
  })
}

const sameParts = (a: readonly Part[], b: readonly Part[]): boolean =>
  a.length === b.length &&
  a.every((one, at) => {
    const other = b[at]!
    return (
      one.outcome === other.outcome &&
      one.more === other.more &&
      one.span === other.span &&
      sameRanges(one.ranges, other.ranges)
    )
  })

/** Up to this many destinations are looked up one by one. */
const FEW = 8
/**
 * With more outcomes than this beyond a transit, the destinations are intersected with all of them
 * at once, not for each range that leads there.
 */
const MOST_CROSSED = 64

/** What is asked of a kind of host: its ranges and the destinations to look for in them. */
interface Asked extends Required<Omit<Meeting, 'most'>> {
  readonly model: Model
  readonly subnet: SubnetModel
  readonly table: HopTable
  readonly ranges: readonly HopRange[]
  readonly destinations: RangeSet
  readonly memo: HopMemo
}

/** A range that leads to a transit. */
type ToTransit = HopRange & { readonly behind: BeyondTransit }

function meetShared(asked: Asked, most: number): Part[] {
  const { ranges, destinations, memo, wanted, without } = asked
  const meetBehind = destinations.length <= FEW ? expandEach : MEET_BEHIND[memo.grain]
  const gathered = gather(most)
  // Both lists ascend, so the destinations that a range can meet begin where the last one's did.
  let at = 0
  for (const range of ranges) {
    while (at < destinations.length && compareAddresses(destinations[at]!.to, range.from) < 0) at++
    if (at === destinations.length) break
    const { behind, hop } = range
    if (compareAddresses(destinations[at]!.from, range.to) > 0) continue
    if (behind === null && !wanted.has(hop)) continue
    for (const span of subtractRanges([range], without)) {
      if (behind === null) gathered.addWithin(outcomeOf(memo, hop), span, destinations)
      else meetBehind(asked, gathered, { ...range, behind }, span)
    }
  }
  return gathered.parts()
}

type MeetBehind = (
  asked: Asked,
  gathered: ReturnType<typeof gather>,
  range: ToTransit,
  span: Range,
) => void

/** Adds every outcome beyond a transit in a span, range by range. */
const expandWithin: MeetBehind = (
  { model, subnet, table, memo, wanted, destinations },
  gathered,
  range,
  span,
) => {
  for (const part of expandRange(model, subnet, table.kind, { ...range, ...span }, memo, wanted))
    gathered.addWithin(part.outcome, part, destinations)
}

/** Adds the outcomes of each of a few destinations by itself. */
const expandEach: MeetBehind = (asked, gathered, range, span) => {
  for (const part of partsWithin(asked.destinations, span))
    expandWithin(asked, gathered, range, part)
}

/**
 * Adds the destinations that share an outcome beyond the transit all at once, and those whose
 * outcome depends on the sender range by range.
 */
const addAcross: MeetBehind = (asked, gathered, range, span) => {
  const { model, memo, destinations, wanted } = asked
  const across = outcomesAcross(model, memo, range.behind, destinations, span, wanted)
  const { shared, individual } = across
  if (shared.length > MOST_CROSSED) return expandWithin(asked, gathered, range, span)
  let from: Address | null = span.from
  for (
    let at = firstFrom(individual, span.from);
    from !== null && at < individual.length && individual[at]!.from <= span.to;
    at++
  ) {
    const own = meetSpans(individual[at]!, span)
    if (own.from > from) gathered.addCrossed(shared, { from, to: previousAddress(own.from)! })
    expandWithin(asked, gathered, range, own)
    from = nextAddress(own.to)
  }
  if (from !== null && from <= span.to) gathered.addCrossed(shared, { from, to: span.to })
}

/** By grain: a set across all destinations beyond a transit would depend on every one of them. */
const MEET_BEHIND: Record<Grain, MeetBehind> = { coarse: addAcross, fine: expandWithin }

interface Met {
  readonly ranges: Range[]
  last: Range
  more: number
  span: number
}

/** Groups ranges by outcome, those of each outcome in ascending order. */
function gather(most: number) {
  const found = new Map<Outcome, Met>()
  const add = (outcome: Outcome, range: Range): Met => {
    const known = found.get(outcome)
    const span = spanOf(range)
    if (!known) {
      const made = { ranges: [range], last: range, more: 0, span }
      found.set(outcome, made)
      return made
    }
    // Ranges come in order, so one that goes on where the last ended is part of it.
    const goesOn = nextAddress(known.last.to) === range.from
    known.last = goesOn ? { from: known.last.from, to: range.to } : range
    known.span += span
    if (known.more === 0 && goesOn) known.ranges[known.ranges.length - 1] = known.last
    else if (known.ranges.length < most) known.ranges.push(range)
    else if (!goesOn) known.more++
    return known
  }
  /**
   * What of a set lies in a span; of a long run only the ends are looked at, and as many as are
   * listed.
   */
  const addWithin = (outcome: Outcome, span: Range, set: RangeSet): void => {
    const from = firstFrom(set, span.from)
    const end =
      from < set.length && compareAddresses(set[from]!.from, span.to) <= 0
        ? endWithin(set, from, span.to)
        : from
    for (let at = from; at < end; at++) {
      const known = add(
        outcome,
        at === from || at === end - 1 ? firstPart([set[at]!], span)! : set[at]!,
      )
      const last = end - 2
      // Those between the ends neither touch nor are cut, so they are counted.
      if (known.ranges.length < most || at === from || at >= last) continue
      known.more += last - at
      const sizes = sizesOf(set)
      for (let between = at + 1; between <= last; between++) known.span += sizes[between]!
      known.last = set[last]!
      at = last
    }
  }
  /** What lies behind a transit in a span, the outcome that comes first before the others. */
  const addCrossed = (shared: readonly Crossed[], span: Range): void => {
    const here = shared.flatMap(({ outcome, ranges }) => {
      const first = firstPart(ranges, span)
      return first === null ? [] : [{ outcome, ranges, first: first.from }]
    })
    for (const { outcome, ranges } of here.sort((a, b) => compareAddresses(a.first, b.first)))
      addWithin(outcome, span, ranges)
  }
  const parts = (): Part[] =>
    [...found].map(([outcome, { ranges: met, more, span }]) => ({
      outcome,
      ranges: met,
      more,
      span,
    }))
  return { addWithin, addCrossed, parts }
}

/** Behind the last range of a set that begins within a span, which the one at `from` does. */
function endWithin(set: RangeSet, from: number, to: Address): number {
  let [low, high] = [from + 1, set.length]
  while (low < high) {
    const middle = (low + high) >>> 1
    if (compareAddresses(set[middle]!.from, to) <= 0) low = middle + 1
    else high = middle
  }
  return low
}

const sizes = new WeakMap<RangeSet, Float64Array>()

/** How many addresses each range of a set has. */
function sizesOf(set: RangeSet): Float64Array {
  let known = sizes.get(set)
  if (!known) sizes.set(set, (known = Float64Array.from(set, spanOf)))
  return known
}

const spanOf = ({ from, to }: Range): number => Number(to) - Number(from) + 1

const outcomes = new WeakMap<Hop, Outcome>()

/** The outcome of a hop without its routes: one object for all hops with the same outcome. */
function outcomeOf(memo: HopMemo, hop: Hop): Outcome {
  const known = outcomes.get(hop)
  if (known) return known
  const { ways, leavesBy, seenAs, cause, reaches } = hop
  const made = intern(memo, { ways, leavesBy, seenAs, cause, reaches })
  outcomes.set(hop, made)
  return made
}
