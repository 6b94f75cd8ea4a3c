import { compareAddresses, nextAddress, type Address } from '../address/address'
import { firstFrom, rangeSet, rangeText, type Range } from '../address/ranges'
import { hopMemo, hopsOf, type HopMemo, type HopTable } from '../hops/hops'
import { expandHops, type Hop, type HopRange } from '../hops/sweep'
import type { Model, SubnetModel } from '../model/model'

/** The outcomes of a subnet's packets to some destinations, before and after. */
export interface WayChange {
  /** As `subnets/ID`. */
  readonly subnet: string
  /** The hosts it is true of, by id; none where the subnet has none. */
  readonly hosts: readonly string[]
  /** In ascending order: a prefix where a range is one, else `first-last`. */
  readonly ranges: readonly string[]
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

/**
 * Every subnet and range whose way out changes from one model to another. What came or went with
 * its subnet is not listed.
 */
export function compareWays(
  before: Model,
  after: Model,
  memos: { before: HopMemo; after: HopMemo } = { before: hopMemo(), after: hopMemo() },
): WayChange[] {
  const changes: WayChange[] = []
  for (const subnet of after.subnets) {
    const old = before.subnets[before.index.subnets.get(subnet.id) ?? -1]
    if (!old || !after.index.subnets.has(subnet.id)) continue
    const earlier = hopsOf(before, old, memos.before)
    for (const table of hopsOf(after, subnet, memos.after)) {
      const same =
        earlier.find((one) => one.kind.ref === table.kind.ref) ??
        earlier.find((one) => alike(one, table))
      if (!same) continue
      for (const family of [4, 6] as const) {
        changes.push(
          ...differences(
            subnet,
            hostsOf(after, table),
            expandHops(before, old, same.kind, same[family], memos.before),
            expandHops(after, subnet, table.kind, table[family], memos.after),
          ),
        )
      }
    }
  }
  return changes
}

const alike = (a: HopTable, b: HopTable): boolean =>
  a.kind.hasPublicAddress === b.kind.hasPublicAddress && a.kind.tags.join() === b.kind.tags.join()

const hostsOf = (model: Model, { kind }: HopTable): readonly string[] =>
  kind.interfaces.map((index) => model.interfaces[index]!.id)

function differences(
  subnet: SubnetModel,
  hosts: readonly string[],
  before: readonly HopRange[],
  after: readonly HopRange[],
): WayChange[] {
  const found = new Map<string, { from: Hop | undefined; to: Hop | undefined; ranges: Range[] }>()
  eachDifference(before, after, (from, to, range) => {
    const key = `${from && textKey(from)}>${to && textKey(to)}`
    const known = found.get(key)
    if (known) known.ranges.push(range)
    else found.set(key, { from, to, ranges: [range] })
  })
  return [...found.values()].map(({ from, to, ranges }) => ({
    subnet: subnet.ref,
    hosts,
    ranges: rangeSet(ranges).map(rangeText),
    before: from ? wayText(from) : null,
    after: to ? wayText(to) : null,
  }))
}

/** The ranges in which two cuts of one family's destinations have outcomes that differ. */
export function differingRanges(
  before: readonly HopRange[],
  after: readonly HopRange[],
): readonly Range[] {
  const out: Range[] = []
  eachDifference(before, after, (_, __, range) => void out.push(range))
  return out
}

/** Steps through two cuts of one family's destinations, and tells where outcomes differ. */
function eachDifference(
  before: readonly HopRange[],
  after: readonly HopRange[],
  take: (from: Hop | undefined, to: Hop | undefined, range: Range) => void,
): void {
  const [first] = after.length > 0 ? after : before
  for (let at: Address | null = first?.from ?? null; at !== null;) {
    const [a, b]: (HopRange | undefined)[] = [
      before[firstFrom(before, at)],
      after[firstFrom(after, at)],
    ]
    const to: Address = !a ? b!.to : !b ? a.to : compareAddresses(a.to, b.to) < 0 ? a.to : b.to
    if (a?.hop !== b?.hop && (!a || !b || textKey(a.hop) !== textKey(b.hop)))
      take(a?.hop, b?.hop, { from: at, to })
    at = nextAddress(to)
  }
}

const textKey = (hop: Hop): string =>
  `${hop.ways.join(';')} ${hop.leavesBy} ${hop.seenAs.join()} ${hop.cause?.code} ${hop.cause?.object}`

const wayText = ({ ways, leavesBy, seenAs, cause }: Hop): WayText => ({
  way: ways[0] ?? [],
  otherWays: ways.slice(1),
  leavesBy,
  seenAs,
  cause: cause === null ? null : { code: cause.code, object: cause.object },
})
