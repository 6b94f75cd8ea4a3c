import { memoStable, cached } from '../incremental/cells'
import { derived } from '../incremental/derived'
import type { Grain } from '../incremental/grain'
import {
  compareAddresses,
  familyOf,
  nextAddress,
  previousAddress,
  type Address,
  type Family,
} from '../address/address'
import { sortedOnce } from '../address/address-map'
import { wholeSpace } from '../address/prefix-table'
import {
  firstFrom,
  rangeOf,
  rangeSet,
  sameRanges,
  type Range,
  type RangeSet,
} from '../address/ranges'
import { splitRef } from '../format/ref'
import type { Model } from '../model/model'
import {
  addRange,
  sameOnward,
  meetSpans,
  onward,
  type BeyondTransit,
  type TransitEntry,
  type StartingPoint,
  type OnwardMemo,
  type OnwardRange,
} from './onward'
import { identity, intern, type Outcome } from './outcome'

/** Which outcomes are wanted. The name is part of the cache keys of what is found for it. */
export interface Wanted {
  readonly name: string
  readonly has: (outcome: Outcome) => boolean
  /**
   * The part of the way up to a transit that decides `has`; ways with the same text share results.
   */
  readonly asks?: (before: Outcome) => string
}

export const EVERYTHING: Wanted = { name: '', has: () => true }

/** The wanted outcomes beyond a transit for packets that begin at `onset`, cut by outcome. */
export function outcomesBeyondTransit(
  model: Model,
  memo: OnwardMemo,
  onsetOf: () => StartingPoint,
  range: Range & { readonly behind: BeyondTransit },
  wanted: Wanted = EVERYTHING,
): OnwardRange[] {
  const { behind } = range
  const found = outcomesBeyond(model, memo, behind, range, wanted)
  const out: OnwardRange[] = []
  for (
    let at = firstFrom(found, range.from);
    at < found.length && compareAddresses(found[at]!.from, range.to) <= 0;
    at++
  ) {
    const there = found[at]!
    const whole = there.from >= range.from && there.to <= range.to
    if (isIndividual(behind, there) && beginsBefore(model, behind, there, onsetOf())) {
      for (const own of onward(model, memo, onsetOf(), meetSpans(there, range)))
        if (wanted.has(own.outcome)) addRange(out, own)
    } else if (wanted.has(there.outcome))
      addRange(out, whole ? there : { ...there, ...meetSpans(there, range) })
  }
  return out
}

/**
 * The destinations of a family that may have a wanted outcome beyond a transit. One set serves all
 * senders whose ways up to it are alike.
 */
export function allThatMayCome(
  model: Model,
  memo: OnwardMemo,
  behind: BeyondTransit,
  family: Family,
  wanted: Wanted & { readonly asks: NonNullable<Wanted['asks']> },
): RangeSet {
  const key = `${behind.junction.key} ${family} ${behind.own} ${wanted.name} ${wanted.asks(behind.before)}`
  return cached(memo.coming, key, () =>
    rangeSet(mayCome(model, memo, { ...wholeSpace(family), behind }, wanted)),
  )
}

/**
 * The destinations of a range that may have a wanted outcome for any sender; those whose outcome
 * depends on the sender are included.
 */
export function mayCome(
  model: Model,
  memo: OnwardMemo,
  { behind, ...range }: Range & { readonly behind: BeyondTransit },
  wanted: Wanted,
): Range[] {
  const found = outcomesBeyond(model, memo, behind, range, wanted)
  const out: Range[] = []
  for (
    let at = firstFrom(found, range.from);
    at < found.length && compareAddresses(found[at]!.from, range.to) <= 0;
    at++
  ) {
    const there = found[at]!
    if (isIndividual(behind, there) || wanted.has(there.outcome)) out.push(meetSpans(there, range))
  }
  return out
}

/**
 * What a sender meets beyond a transit that others who come there do not: outcomes of its own, where
 * its source or a loop makes a difference.
 */
export function outcomesOfItsOwn(
  model: Model,
  memo: OnwardMemo,
  onsetOf: () => StartingPoint,
  { behind, ...range }: Range & { readonly behind: BeyondTransit },
): OnwardRange[] {
  return individualOf(behind, outcomesFromEntry(model, memo, behind.junction, range)).flatMap(
    (there) =>
      compareAddresses(there.from, range.to) <= 0 &&
      compareAddresses(range.from, there.to) <= 0 &&
      beginsBefore(model, behind, there, onsetOf())
        ? onward(model, memo, onsetOf(), meetSpans(there, range))
        : [],
  )
}

const individuals = {
  own: new WeakMap<readonly OnwardRange[], readonly OnwardRange[]>(),
  others: new WeakMap<readonly OnwardRange[], readonly OnwardRange[]>(),
}

function individualOf(behind: BeyondTransit, list: readonly OnwardRange[]): readonly OnwardRange[] {
  const known = individuals[behind.own ? 'own' : 'others']
  let found = known.get(list)
  if (!found) known.set(list, (found = list.filter((there) => isIndividual(behind, there))))
  return found
}

/** Whether the outcome beyond the transit may depend on the sender. */
export const isIndividual = ({ own }: BeyondTransit, { passed, sources }: OnwardRange): boolean =>
  passed !== null || (own && !isWhole(sources))

/**
 * Whether this sender has an outcome of its own: its source lies outside the span that was shared,
 * or a loop began before the transit.
 */
function beginsBefore(
  model: Model,
  behind: BeyondTransit,
  { sources, passed }: OnwardRange,
  onset: StartingPoint,
): boolean {
  if (behind.own && !(sources.from <= onset.source && onset.source <= sources.to)) return true
  return (
    passed !== null &&
    (passed.has(CREATOR_NETWORK) ||
      behind.places.some((place) => passed.has(place)) ||
      passesNetwork(model, passed, onset))
  )
}

/**
 * All outcomes beyond a transit, joined with the way up to it. Cached for all senders whose way up
 * to it is the same.
 */
export function outcomesBeyond(
  model: Model,
  memo: OnwardMemo,
  behind: BeyondTransit,
  span: Range,
  wanted: Wanted,
): readonly OnwardRange[] {
  const key = `${WAY_KEY[memo.grain](behind)} ${familyOf(span.from)} ${wanted.name}`
  return memoStable(
    memo.joined,
    key,
    () => {
      const outcomes = new Map<Outcome, Outcome>()
      return outcomesFromEntry(model, memo, behind.junction, span).flatMap(
        (there): OnwardRange[] => {
          let outcome = outcomes.get(there.outcome)
          if (!outcome)
            outcomes.set(there.outcome, (outcome = joined(memo, behind.before, there.outcome)))
          // An outcome that depends on the sender is included whatever it is for most senders.
          return isIndividual(behind, there) || wanted.has(outcome)
            ? [{ ...there, comesBack: false, outcome, behind: null }]
            : []
        },
      )
    },
    sameOnward,
  )
}

function isWhole({ from, to }: Range): boolean {
  const whole = wholeSpace(familyOf(from))
  return from === whole.from && to === whole.to
}

const networks = new WeakMap<ReadonlySet<string>, ReadonlySet<number>>()

/** Whether a loop passes the network that packets go on from, so that it may begin there. */
function passesNetwork(
  model: Model,
  passed: ReadonlySet<string>,
  { at, network }: StartingPoint,
): boolean {
  let known = networks.get(passed)
  if (!known) networks.set(passed, (known = networksOn(model, passed)))
  return passed.has(at) || known.has(network)
}

/** The networks in whose route tables packets were looked up on their way. */
function networksOn(model: Model, passed: ReadonlySet<string>): ReadonlySet<number> {
  const found = new Set<number>()
  for (const ref of passed) {
    const [section, id] = splitRef(ref)
    const index =
      section === 'routeTables' || section === 'subnets' ? model.index[section].get(id) : undefined
    if (index !== undefined)
      found.add((section === 'subnets' ? model.subnets : model.tables)[index]!.network)
  }
  return found
}

/**
 * What names the way up to a transit in a key. A way that others found first is a number shared
 * with them; a fine value rests on no other sender, so its key names the way itself.
 */
const WAY_KEY: Record<Grain, (behind: BeyondTransit) => string | number> = {
  coarse: (behind) => behind.way,
  fine: identity,
}

/** All outcomes beyond a transit, in the family of an address: the same for all who come there. */
export const outcomesFromEntry = (
  model: Model,
  memo: OnwardMemo,
  junction: TransitEntry,
  { from }: { readonly from: Address },
): readonly OnwardRange[] => FROM_ENTRY[memo.grain](model, memo, junction, familyOf(from))

type FromEntry = (
  model: Model,
  memo: OnwardMemo,
  junction: TransitEntry,
  family: Family,
) => readonly OnwardRange[]

/** By grain: all at once, or one piece for each network, so that a change of one leaves others. */
const FROM_ENTRY: Record<Grain, FromEntry> = {
  coarse: (model, memo, junction, family) =>
    cached(memo.junctions, junction.key, () =>
      behindTransit(model, memo, junction, wholeSpace(family)),
    ),
  fine: (model, memo, junction, family) =>
    memoStable(
      memo.junctions,
      junction.key,
      () => {
        const out: OnwardRange[] = []
        for (const piece of piecesOf(model, family))
          for (const part of pieceBehind(model, memo, junction, piece)) addRange(out, part)
        return out
      },
      sameOnward,
    ),
}

const pieceBehind = (
  model: Model,
  memo: OnwardMemo,
  junction: TransitEntry,
  piece: Range,
): readonly OnwardRange[] =>
  memoStable(
    memo.junctions,
    `${junction.key} from ${piece.from}`,
    () => behindTransit(model, memo, junction, piece),
    sameOnward,
  )

function behindTransit(
  model: Model,
  memo: OnwardMemo,
  { onset, transit, table }: TransitEntry,
  within: Range,
): OnwardRange[] {
  // The sender that created the entry may lose its attachment, or get another table. The entry is
  // then invalidated and created by the next sender.
  if (
    onset.next.at === 'transit' &&
    model.transits[transit]!.source.attachments?.[onset.next.attachment]?.table !== table
  )
    throw new Error('the attachment it was found by leads elsewhere now')
  // The entry was created by one sender: a loop through that sender's network is no loop for
  // senders of other networks.
  return onward(model, memo, onset, within).map((part) =>
    part.passed !== null && passesNetwork(model, part.passed, onset)
      ? { ...part, passed: new Set([...part.passed, CREATOR_NETWORK]) }
      : part,
  )
}

/**
 * Stands, among the places of a loop, for the network of the sender that created the cache entry.
 */
const CREATOR_NETWORK = 'the first comer'

/** The whole space of a family, cut wherever a range of a network begins or ends. */
const piecesOf = derived(
  (model: Model, family: Family): readonly Range[] => {
    const whole = wholeSpace(family)
    const starts: Address[] = [whole.from]
    for (const network of model.networks) {
      for (const prefix of network.ranges) {
        const { from, to } = rangeOf(prefix)
        if (familyOf(from) !== family) continue
        starts.push(from)
        const next = nextAddress(to)
        if (next !== null) starts.push(next)
      }
    }
    const sorted = sortedOnce(starts)
    return sorted.map((from, at) => ({
      from,
      to: at + 1 < sorted.length ? previousAddress(sorted[at + 1]!)! : whole.to,
    }))
  },
  { same: sameRanges },
)

/** The outcome of a way up to a transit, continued by an outcome beyond it. */
function joined(memo: OnwardMemo, before: Outcome, behind: Outcome): Outcome {
  const ways = behind.ways.map((way) => [...before.ways[0]!, ...way])
  return intern(memo, {
    ...behind,
    ways,
    seenAs: behind.cause === null && behind.seenAs.length === 0 ? before.seenAs : behind.seenAs,
    leavesBy:
      behind.reaches === null || before.leavesBy !== null
        ? (before.leavesBy ?? firstBetween(ways[0] ?? []))
        : behind.leavesBy,
  })
}

const firstBetween = (way: readonly string[]): string | null =>
  way.find((ref) => /^(peerings|transits)\//.test(ref)) ?? null
