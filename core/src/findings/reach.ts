import { compareAddresses, familyOf, type Address, type Family } from '../address/address'
import { firstFrom, rangesContain, rangeSet, type Range, type RangeSet } from '../address/ranges'
import { allThatMayCome, mayCome, type Wanted } from '../hops/behind'
import { outcomeAt, type HopMemo } from '../hops/hops'
import { currentObserver } from '../incremental/cells'
import { derived, derivedAndCompared, sameItems, sameRanges } from '../model/derived'
import { homes, homesIn, type Home, type CheckContext } from './survey'

/** The address each kind of host of a subnet sends from, in the order of its kinds. */
export const sourcesIn = (
  survey: CheckContext,
  index: number,
  family: Family,
): readonly (Address | null)[] => {
  const find = (): readonly (Address | null)[] =>
    survey.tablesOf(survey.model.subnets[index]!).map((table) => table.kind.sources[family])
  return currentObserver() === null
    ? find()
    : derivedAndCompared(survey.model, `sources in ${index} ${family}`, find, sameItems)
}

/** The subnets in some ranges that lie in networks of which some host may reach an address. */
export function* homesThatReach(
  survey: CheckContext,
  own: Address,
  ranges: readonly Range[],
): Generator<Home> {
  if (currentObserver() !== null) {
    const networks = new Map<number, boolean>()
    for (const home of homesIn(survey, ranges)) {
      let reaches = networks.get(home.network)
      if (reaches === undefined)
        networks.set(home.network, (reaches = someReach(survey, home.network, own)))
      if (reaches) yield home
    }
    return
  }
  const known = homes(survey)
  const runs = runsOf(survey)
  const reaches = askedFor(survey, own)
  const seen = new Set<number>()
  for (const range of ranges) {
    for (
      let at = firstFrom(known, range.from);
      at < known.length && compareAddresses(known[at]!.from, range.to) <= 0;
    ) {
      const home = known[at]!
      // Whole networks are passed over: on large estates most do not reach a host.
      if (!reaches(home.network)) {
        at = runs[at]!
        continue
      }
      if (!seen.has(home.subnet)) yield home
      seen.add(home.subnet)
      at++
    }
  }
}

/** For each place among all homes, where those of its network that follow one another end. */
const runsOf = (survey: CheckContext): Int32Array =>
  derived(survey.model, 'where runs of homes end', () => {
    const known = homes(survey)
    const ends = new Int32Array(known.length)
    for (let at = known.length - 1; at >= 0; at--)
      ends[at] = known[at + 1]?.network === known[at]!.network ? ends[at + 1]! : at + 1
    return ends
  })

/**
 * Cached with the memo of next hops instead of with the model, so that both are released together.
 */
const latest = new WeakMap<
  HopMemo,
  { readonly own: Address; readonly reaches: (network: number) => boolean }
>()

/**
 * Whether some host of a network may reach an address. Cached, since many checks ask for the same
 * address.
 */
function askedFor(survey: CheckContext, own: Address): (network: number) => boolean {
  const { model, memo } = survey
  const before = latest.get(memo)
  if (before?.own === own) return before.reaches
  const family = familyOf(own)
  const reached = derived(model, `reached from each network ${family}`, (): Reached[] => [])
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

/** The same while dependencies are tracked. */
function someReach(survey: CheckContext, network: number, own: Address): boolean {
  const ask = (): boolean =>
    isReached(reachedFrom(survey, network, familyOf(own)), own, (all) => rangesContain(all, own))
  return derivedAndCompared(survey.model, `${network} reaches ${typeof own} ${own}`, ask, Object.is)
}

/**
 * The kinds of host of a subnet whose packets reach an address untranslated. Compared before its
 * observers are invalidated, since few changes alter it.
 */
export function reachingFrom(survey: CheckContext, index: number, own: Address): readonly number[] {
  const { model, memo } = survey
  const subnet = model.subnets[index]!
  const find = (): readonly number[] =>
    survey.tablesOf(subnet).flatMap((table, kind) => {
      if (table.kind.sources[familyOf(own)] === null) return []
      const there = outcomeAt(model, subnet, table, own, memo)
      // The answer to a translated packet goes to the translator, not to this subnet's hosts.
      return there !== null && AS_IT_IS.has(there) ? [kind] : []
    })
  return currentObserver() === null
    ? find()
    : derivedAndCompared(model, `who of ${index} reaches ${typeof own} ${own}`, find, sameItems)
}

/** Delivered, and not translated on the way. */
const AS_IT_IS = {
  name: 'delivered as it is',
  has: ({ cause, seenAs }) => cause === null && seenAs.length === 0,
  asks: ({ seenAs }) => (seenAs.length === 0 ? 'as it is' : 'translated'),
} satisfies Wanted

/**
 * Every address that packets from some host of a network may reach as they are: where it is not,
 * nobody there need be asked. What lies behind a transit is the same set for all who come to it
 * alike, and is not copied for each network.
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

const reachedFrom = (survey: CheckContext, network: number, family: Family): Reached =>
  derivedAndCompared(
    survey.model,
    `reached from network ${network} ${family}`,
    () => {
      const { model, memo } = survey
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
            if (behind === null) {
              if (AS_IT_IS.has(hop)) near.push({ from, to })
            } else if (currentObserver() !== null)
              for (const part of mayCome(model, memo, { from, to, behind }, AS_IT_IS))
                near.push(part)
            else {
              const all = allThatMayCome(model, memo, behind, family, AS_IT_IS)
              const spans = byTransit.get(all)
              if (spans) spans.push({ from, to })
              else byTransit.set(all, [{ from, to }])
            }
          }
        }
      }
      return {
        near: rangeSet(near),
        behind: [...byTransit].map(([all, spans]) => ({ spans: rangeSet(spans), all })),
      }
    },
    // Destinations beyond transits are not compared one by one: while dependencies are tracked they
    // are part of the near ones.
    (a, b) => sameRanges(a.near, b.near),
  )

const isReached = (
  { near, behind }: Reached,
  own: Address,
  isBehind: (all: RangeSet) => boolean,
): boolean =>
  rangesContain(near, own) ||
  behind.some(({ spans, all }) => isBehind(all) && rangesContain(spans, own))
