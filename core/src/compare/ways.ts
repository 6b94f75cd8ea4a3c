import { compareAddresses, nextAddress, type Address } from '../address/address'
import { formatPrefix } from '../address/prefix'
import { firstFrom, prefixesOfRange, rangeSet, type Range } from '../address/ranges'
import { hopMemo, hopsOf, type HopMemo, type HopTable } from '../hops/hops'
import { expandHops, type Hop, type HopRange } from '../hops/sweep'
import type { Model, SubnetModel } from '../model/model'

/** The outcomes of a subnet's packets to some destinations, before and after. */
export interface WayChange {
  readonly subnet: string
  /** The first host it is true of, or the subnet where it has no host. */
  readonly host: string
  readonly ranges: readonly string[]
  readonly before: WayText | null
  readonly after: WayText | null
}

export interface WayText {
  readonly way: readonly string[]
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
            table,
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

function differences(
  subnet: SubnetModel,
  table: HopTable,
  before: readonly HopRange[],
  after: readonly HopRange[],
): WayChange[] {
  const found = new Map<string, { from: Hop | undefined; to: Hop | undefined; ranges: Range[] }>()
  const [first] = after.length > 0 ? after : before
  for (let at: Address | null = first?.from ?? null; at !== null;) {
    const [a, b]: (HopRange | undefined)[] = [
      before[firstFrom(before, at)],
      after[firstFrom(after, at)],
    ]
    const to: Address = !a ? b!.to : !b ? a.to : compareAddresses(a.to, b.to) < 0 ? a.to : b.to
    const [x, y] = [a && textKey(a.hop), b && textKey(b.hop)]
    if (x !== y) {
      const known = found.get(`${x}>${y}`)
      if (known) known.ranges.push({ from: at, to })
      else found.set(`${x}>${y}`, { from: a?.hop, to: b?.hop, ranges: [{ from: at, to }] })
    }
    at = nextAddress(to)
  }
  return [...found.values()].map(({ from, to, ranges }) => ({
    subnet: subnet.ref,
    host: table.kind.ref,
    ranges: rangeSet(ranges).flatMap(prefixesOfRange).map(formatPrefix),
    before: from ? wayText(from) : null,
    after: to ? wayText(to) : null,
  }))
}

const textKey = (hop: Hop): string =>
  `${hop.ways.join(';')} ${hop.leavesBy} ${hop.seenAs.join()} ${hop.cause?.code} ${hop.cause?.object}`

const wayText = ({ ways, leavesBy, seenAs, cause }: Hop): WayText => ({
  way: ways[0] ?? [],
  leavesBy,
  seenAs,
  cause: cause === null ? null : { code: cause.code, object: cause.object },
})
