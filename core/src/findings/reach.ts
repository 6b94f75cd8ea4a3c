import { derived, sameItems } from '../incremental/derived'
import { compareAddresses, familyOf, type Address, type Family } from '../address/address'
import {
  sameRanges,
  firstFrom,
  rangesContain,
  rangeSet,
  type Range,
  type RangeSet,
} from '../address/ranges'
import { allThatMayCome, mayCome, type Wanted } from '../hops/behind'
import { outcomeAt, type HopMemo } from '../hops/hops'
import type { BeyondTransit } from '../hops/onward'
import type { Grain } from '../incremental/grain'
import type { Model } from '../model/model'
import { modelOf, homes, homesIn, type Home, type CheckContext } from './survey'

/** The address each kind of host of a subnet sends from, in the order of its kinds. */
export const sourcesIn = derived(
  (survey: CheckContext, index: number, family: Family): readonly (Address | null)[] =>
    survey.tablesOf(survey.model.subnets[index]!).map((table) => table.kind.sources[family]),
  { same: sameItems, untracked: 'none', on: modelOf },
)

/** The subnets in some ranges that lie in networks of which some host may reach an address. */
export const homesThatReach = (
  survey: CheckContext,
  own: Address,
  ranges: readonly Range[],
): Iterable<Home> => HOMES_THAT_REACH[survey.memo.grain](survey, own, ranges)

type HomesThatReach = (
  survey: CheckContext,
  own: Address,
  ranges: readonly Range[],
) => Iterable<Home>

/**
 * By grain: each network is asked for one address, or, since many checks ask for the same address,
 * all networks for the last one, with whole networks passed over.
 */
const HOMES_THAT_REACH: Record<Grain, HomesThatReach> = {
  *coarse(survey, own, ranges) {
    const known = homes(survey)
    const runs = runsOf(survey)
    const reaches = networksReaching(survey, own)
    const seen = new Set<number>()
    for (const range of ranges) {
      for (
        let at = firstFrom(known, range.from);
        at < known.length && compareAddresses(known[at]!.from, range.to) <= 0;
      ) {
        const home = known[at]!
        if (!reaches(home.network)) {
          at = runs[at]!
          continue
        }
        if (!seen.has(home.subnet)) yield home
        seen.add(home.subnet)
        at++
      }
    }
  },
  *fine(survey, own, ranges) {
    const networks = new Map<number, boolean>()
    for (const home of homesIn(survey, ranges)) {
      let reaches = networks.get(home.network)
      if (reaches === undefined)
        networks.set(home.network, (reaches = networkReaches(survey, home.network, own)))
      if (reaches) yield home
    }
  },
}

/** For each place among all homes, where those of its network that follow one another end. */
const runsOf = derived(
  (survey: CheckContext): Int32Array => {
    const known = homes(survey)
    const ends = new Int32Array(known.length)
    for (let at = known.length - 1; at >= 0; at--)
      ends[at] = known[at + 1]?.network === known[at]!.network ? ends[at + 1]! : at + 1
    return ends
  },
  { on: modelOf },
)

/**
 * Cached with the memo of next hops instead of with the model, so that both are released together.
 */
const latest = new WeakMap<
  HopMemo,
  { readonly own: Address; readonly reaches: (network: number) => boolean }
>()

/** Filled in network by network, without a look-up in a map for each question. */
const reachedByNetwork = derived((_: Model, __: Family): Reached[] => [])

/** Whether some host of a network may reach an address, cached for the address asked for last. */
function networksReaching(survey: CheckContext, own: Address): (network: number) => boolean {
  const { model, memo } = survey
  const before = latest.get(memo)
  if (before?.own === own) return before.reaches
  const family = familyOf(own)
  const reached = reachedByNetwork(model, family)
  const [UNKNOWN, NO, YES] = [0, 1, 2]
  const answers = new Uint8Array(model.networks.length)
  const behind = new Map<RangeSet, boolean>()
  const isBehind = (all: RangeSet): boolean => {
    let known = behind.get(all)
    if (known === undefined) behind.set(all, (known = rangesContain(all, own)))
    return known
  }
  const reaches = (network: number): boolean => {
    if (answers[network] === UNKNOWN) {
      const from = (reached[network] ??= reachedFrom(survey, network, family))
      answers[network] = isReached(from, own, isBehind) ? YES : NO
    }
    return answers[network] === YES
  }
  latest.set(memo, { own, reaches })
  return reaches
}

const networkReaches = derived(
  (survey: CheckContext, network: number, own: Address): boolean =>
    isReached(reachedFrom(survey, network, familyOf(own)), own, (all) => rangesContain(all, own)),
  { same: Object.is, on: modelOf },
)

/** The kinds of host of a subnet whose packets reach an address untranslated. */
export const reachingFrom = derived(
  (survey: CheckContext, index: number, own: Address): readonly number[] => {
    const { model, memo } = survey
    const subnet = model.subnets[index]!
    return survey.tablesOf(subnet).flatMap((table, kind) => {
      if (table.kind.sources[familyOf(own)] === null) return []
      const there = outcomeAt(model, subnet, table, own, memo)
      // The answer to a translated packet goes to the translator, not to this subnet's hosts.
      return there !== null && AS_IT_IS.has(there) ? [kind] : []
    })
  },
  { same: sameItems, untracked: 'none', on: modelOf },
)

/** Delivered, and not translated on the way. */
const AS_IT_IS = {
  name: 'delivered as it is',
  has: ({ cause, seenAs }) => cause === null && seenAs.length === 0,
  asks: ({ seenAs }) => (seenAs.length === 0 ? 'as it is' : 'translated'),
} satisfies Wanted

/**
 * Every address that packets from some host of a network may reach as they are: a network without
 * an address here need not be asked for it. The addresses behind a transit are one set for all
 * senders with the same way up to it, and are not copied for each network.
 */
interface Reached {
  readonly near: RangeSet
  readonly behind: readonly BehindTransit[]
}

/** The spans that lead to a transit, and of the whole space what may be reached behind it. */
interface BehindTransit {
  readonly spans: RangeSet
  readonly all: RangeSet
}

const reachedFrom = derived(
  (survey: CheckContext, network: number, family: Family): Reached => {
    const { model, memo } = survey
    const addBehind = ADD_BEHIND[memo.grain]
    const asked = new Set<unknown>()
    const near: Range[] = []
    // The tables of a network lead to the same transits with different gaps, so their spans are
    // united.
    const byTransit = new Map<RangeSet, Range[]>()
    for (const index of model.networks[network]!.subnets) {
      for (const table of survey.tablesOf(model.subnets[index]!)) {
        const ranges = table.shared[family]
        if (asked.has(ranges)) continue
        asked.add(ranges)
        for (const { from, to, hop, behind } of ranges) {
          if (behind !== null) addBehind(survey, { near, byTransit }, { from, to, behind })
          else if (AS_IT_IS.has(hop)) near.push({ from, to })
        }
      }
    }
    return {
      near: rangeSet(near),
      behind: [...byTransit].map(([all, spans]) => ({ spans: rangeSet(spans), all })),
    }
  },
  // With a fine grain, destinations beyond transits are among the near ones, so all is compared.
  { same: (a, b) => sameRanges(a.near, b.near), on: modelOf },
)

type AddBehind = (
  survey: CheckContext,
  to: { readonly near: Range[]; readonly byTransit: Map<RangeSet, Range[]> },
  range: Range & { readonly behind: BeyondTransit },
) => void

/** By grain: the set of a whole transit, which its senders share, or only what lies in a range. */
const ADD_BEHIND: Record<Grain, AddBehind> = {
  coarse: ({ model, memo }, { byTransit }, { from, to, behind }) => {
    const all = allThatMayCome(model, memo, behind, familyOf(from), AS_IT_IS)
    const spans = byTransit.get(all)
    if (spans) spans.push({ from, to })
    else byTransit.set(all, [{ from, to }])
  },
  fine: ({ model, memo }, { near }, range) => {
    for (const part of mayCome(model, memo, range, AS_IT_IS)) near.push(part)
  },
}

const isReached = (
  { near, behind }: Reached,
  own: Address,
  isBehind: (all: RangeSet) => boolean,
): boolean =>
  rangesContain(near, own) ||
  behind.some(({ spans, all }) => isBehind(all) && rangesContain(spans, own))
