import { formatAddress } from '../address/address'
import { formatPrefix } from '../address/prefix'
import { prefixesOfRange } from '../address/ranges'
import type { Model, RouteModel, SubnetModel } from '../model/model'
import { targetRef } from '../model/targets'
import { hopMemo, hopsOf, shadowedAt, type HopMemo } from './hops'
import { sameList } from '../model/sections'
import { expandHops, type Hop, type HopRange } from './sweep'

export interface RouteJson {
  readonly to: string
  readonly origin: RouteModel['origin']
  /** What it leads to: `section/id`, an address, or `local`, `drop`, `internet`. */
  readonly target: string
  /** The table it stands in, and its place there, or null. */
  readonly table: string | null
  readonly entry: number | null
}

export interface HopRangeJson {
  readonly family: 4 | 6
  readonly from: string
  readonly to: string
  readonly prefixes: readonly string[]
  /** One, or several of equal cost; none where no route covers the range. */
  readonly winners: readonly RouteJson[]
  readonly shadowed: readonly RouteJson[]
  readonly way: readonly string[]
  /** The ways of further branches of equal cost. */
  readonly otherWays: readonly (readonly string[])[]
  readonly leavesBy: string | null
  readonly seenAs: readonly string[]
  readonly cause: {
    readonly code: string
    readonly object: string
    readonly inner?: { readonly code: string; readonly object: string }
  } | null
}

export interface HopsJson {
  readonly subnet: string
  readonly kinds: readonly {
    /** The hosts this is true of; none for unoccupied addresses. */
    readonly hosts: readonly string[]
    readonly publicAddress: boolean
    readonly tags: readonly string[]
    readonly ranges: readonly HopRangeJson[]
  }[]
}

/** The effective next hops of a subnet, written out. */
export function hopsJson(model: Model, subnet: SubnetModel, memo: HopMemo = hopMemo()): HopsJson {
  return {
    subnet: subnet.ref,
    kinds: hopsOf(model, subnet, memo).map((table) => ({
      hosts: table.kind.interfaces.map((index) => model.interfaces[index]!.ref),
      publicAddress: table.kind.hasPublicAddress,
      tags: table.kind.tags,
      ranges: ([4, 6] as const).flatMap((family) =>
        merged(
          expandHops(model, subnet, table.kind, table[family], memo).map((range) => ({
            ...range,
            hop: { ...range.hop, shadowed: shadowedAt(table, range) },
          })),
        ).map((range) => rangeJson(model, family, range)),
      ),
    })),
  }
}

/** Neighbours that differ only in which service or site has them become one. */
function merged(ranges: readonly HopRange[]): HopRange[] {
  const out: HopRange[] = []
  for (const range of ranges) {
    const last = out.at(-1)
    if (last && sameHop(last.hop, range.hop)) out[out.length - 1] = { ...last, to: range.to }
    else out.push(range)
  }
  return out
}

const sameHop = (a: Hop, b: Hop): boolean =>
  sameList(a.winners, b.winners) &&
  sameList(a.shadowed, b.shadowed) &&
  a.leavesBy === b.leavesBy &&
  sameList(a.seenAs, b.seenAs) &&
  a.ways.join(';') === b.ways.join(';') &&
  JSON.stringify(a.cause) === JSON.stringify(b.cause)

function rangeJson(model: Model, family: 4 | 6, { from, to, hop }: HopRange): HopRangeJson {
  const [way = [], ...otherWays] = hop.ways
  const route = ({ prefix, origin, target, table, entry }: RouteModel): RouteJson => ({
    to: formatPrefix(prefix),
    origin,
    target:
      targetRef(target) ??
      (target.kind === 'address' ? formatAddress(target.address) : target.kind),
    table: table < 0 ? null : model.tables[table]!.ref,
    entry: entry < 0 ? null : entry,
  })
  return {
    family,
    from: formatAddress(from),
    to: formatAddress(to),
    prefixes: prefixesOfRange({ from, to }).map(formatPrefix),
    winners: hop.winners.map(route),
    shadowed: hop.shadowed.map(route),
    way,
    otherWays,
    leavesBy: hop.leavesBy,
    seenAs: hop.seenAs,
    cause: hop.cause,
  }
}
