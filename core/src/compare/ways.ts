import { spaceTexts } from '../addresses/named-space'
import { compareAddresses, nextAddress, type Address } from '../address/address'
import { firstFrom, rangeSet, rangeText, type Range, type RangeSet } from '../address/ranges'
import type { Outcome } from '../hops/outcome'
import { outcomeText, sameOutcome, waysOf, type KindWays, type Way, type Ways } from '../hops/ways'
import type { Model, SubnetModel } from '../model/model'

/** The outcomes of a subnet's packets to some destinations, before and after. */
export interface WayChange {
  /** As `subnets/ID`. */
  readonly subnet: string
  /** The hosts it is true of, by id; none where the subnet has none. */
  readonly hosts: readonly string[]
  /** In ascending order: a prefix where a range is one, else `first-last`. */
  readonly ranges: readonly string[]
  /** The same in words: the internet, a site, space nobody has, or prefixes. */
  readonly destinations: readonly string[]
  readonly before: WayText | null
  readonly after: WayText | null
}

/** An outcome in the words of `hops --json`. */
export interface WayText {
  readonly way: readonly string[]
  /** The ways of further branches of equal cost. */
  readonly otherWays: readonly (readonly string[])[]
  readonly leavesBy: string | null
  readonly seenAs: readonly string[]
  readonly cause: { readonly code: string; readonly object: string } | null
}

/** The ways of two states of an estate. */
export interface PairWays {
  readonly before: Ways
  readonly after: Ways
  /** What is known of them before they are found; left out where nothing is. */
  readonly routing?: PairRouting
}

/** What two states' routing says of their ways without finding them. Subnets are named by id. */
export interface PairRouting {
  /**
   * For each kind of host of a subnet, the destinations that may fare otherwise; null where its
   * ways are to be compared.
   */
  readonly rerouted: (subnet: string) => readonly RangeSet[] | null
  /**
   * The destinations whose ways may be of some sort in either state, by subnet and the place of a
   * kind of host in it; null where its ways are to be asked.
   */
  readonly rangesOf: (sort: SortOfWays) => (subnet: string, kind: number) => readonly Range[] | null
}

/** A sort of ways: those that pass some elements, and those that end in some way. */
export interface SortOfWays {
  readonly passes: (way: readonly string[]) => boolean
  /** Asked without what stands on the way, such as `seenAs` of a translator there. */
  readonly ends: (outcome: Outcome) => boolean
}

/** Whether an outcome is of a sort. */
export const isOfSort = ({ passes, ends }: SortOfWays, outcome: Outcome): boolean =>
  outcome.ways.some(passes) || ends(outcome)

/** The same, asked of each outcome once: many ranges share their outcomes. */
export function ofSort(sort: SortOfWays): (outcome: Outcome) => boolean {
  const known = new Map<Outcome, boolean>()
  return (outcome) => {
    let found = known.get(outcome)
    if (found === undefined) known.set(outcome, (found = isOfSort(sort, outcome)))
    return found
  }
}

/** The ways of two states of which nothing is known yet. */
export const waysOfPair = (before: Model, after: Model): PairWays => ({
  before: waysOf(before),
  after: waysOf(after),
})

/**
 * Every subnet and range whose way out changes from one model to another. What came or went with
 * its subnet is not listed. Costs a step for each range of the subnets whose ways are not the same
 * objects.
 */
export function compareWays(
  before: Model,
  after: Model,
  ways: PairWays = waysOfPair(before, after),
): WayChange[] {
  return after.subnets.flatMap((subnet): WayChange[] => {
    const old = before.subnets[before.index.subnets.get(subnet.id) ?? -1]
    if (!old || !after.index.subnets.has(subnet.id)) return []
    const [olds, news] = [ways.before(old), ways.after(subnet)]
    if (olds === news) return []
    return news.flatMap((now): WayChange[] => {
      const same =
        olds.find((one) => one.kind.ref === now.kind.ref) ?? olds.find((one) => alike(one, now))
      return same
        ? ([4, 6] as const).flatMap((family) =>
            differences(subnet, now.hosts, same[family], now[family]).map((one) =>
              toldOf(after, one),
            ),
          )
        : []
    })
  })
}

const alike = ({ kind: a }: KindWays, { kind: b }: KindWays): boolean =>
  a.hasPublicAddress === b.hasPublicAddress && a.tags.join() === b.tags.join()

function differences(
  subnet: SubnetModel,
  hosts: readonly string[],
  before: readonly Way[],
  after: readonly Way[],
): RangedChange[] {
  const found = new Map<string, { from?: Outcome; to?: Outcome; ranges: Range[] }>()
  eachDifference(before, after, (from, to, range) => {
    const key = `${from && outcomeText(from)}>${to && outcomeText(to)}`
    const known = found.get(key)
    if (known) known.ranges.push(range)
    else found.set(key, { ...(from && { from }), ...(to && { to }), ranges: [range] })
  })
  return [...found.values()].map(({ from, to, ranges }) => ({
    subnet: subnet.ref,
    hosts,
    set: rangeSet(ranges),
    before: from ? wayText(from) : null,
    after: to ? wayText(to) : null,
  }))
}

type RangedChange = Omit<WayChange, 'ranges' | 'destinations'> & { readonly set: RangeSet }

const toldOf = (model: Model, { subnet, hosts, set, before, after }: RangedChange): WayChange => ({
  subnet,
  hosts,
  ranges: set.map(rangeText),
  destinations: spaceTexts(model, set),
  before,
  after,
})

/** The ranges in which two cuts of one family's destinations have outcomes that differ. */
export function differingRanges(before: readonly Way[], after: readonly Way[]): readonly Range[] {
  const out: Range[] = []
  eachDifference(before, after, (_, __, range) => void out.push(range))
  return out
}

/** Steps through two cuts of one family's destinations, and tells where outcomes differ. */
function eachDifference(
  before: readonly Way[],
  after: readonly Way[],
  take: (from: Outcome | undefined, to: Outcome | undefined, range: Range) => void,
): void {
  eachOverlap(before, after, (a, b, range) => {
    if (a && b ? !sameOutcome(a.outcome, b.outcome) : a !== b) take(a?.outcome, b?.outcome, range)
  })
}

/** Steps through two cuts of one family's destinations from the first on, overlap by overlap. */
export function eachOverlap<T extends Range>(
  before: readonly T[],
  after: readonly T[],
  take: (before: T | undefined, after: T | undefined, range: Range) => void,
): void {
  const [first] = after.length > 0 ? after : before
  for (let at: Address | null = first?.from ?? null; at !== null;) {
    const [a, b]: (T | undefined)[] = [before[firstFrom(before, at)], after[firstFrom(after, at)]]
    const to: Address = !a ? b!.to : !b ? a.to : compareAddresses(a.to, b.to) < 0 ? a.to : b.to
    take(a, b, { from: at, to })
    at = nextAddress(to)
  }
}

const wayText = ({ ways, leavesBy, seenAs, cause }: Outcome): WayText => ({
  way: ways[0] ?? [],
  otherWays: ways.slice(1),
  leavesBy,
  seenAs,
  cause: cause === null ? null : { code: cause.code, object: cause.object },
})
