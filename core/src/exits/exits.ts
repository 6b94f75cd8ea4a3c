import { sameItems } from '../incremental/derived'
import { familyOf, formatAddress, type Family } from '../address/address'
import { formatPrefix } from '../address/prefix'
import { longestMatch } from '../address/prefix-table'
import { prefixesOfRange, type Range, type RangeSet } from '../address/ranges'
import { hopMemo, hopsOf, type HopMemo, type HopTable, type Part } from '../hops/hops'
import { askedFrom, type HostKind } from '../hops/kinds'
import { outcomesWithin } from '../hops/meet'
import type { Outcome } from '../hops/outcome'
import type { Model, SubnetModel } from '../model/model'
import { spreadOf, type ExitColumn } from './columns'

/** The kinds of way a packet can go; they decide the tone and the letter of a cell. */
export type WayKind =
  'translated' | 'inspected' | 'direct' | 'private-line' | 'service' | 'local' | 'lost'

/** One way out of a subnet to one kind of destination. */
export interface ExitWay {
  readonly kind: WayKind
  /** The first element of the way, `section/id`; null for local delivery and lost packets. */
  readonly by: string | null
  readonly way: readonly string[]
  /** How many further ways of equal cost there are; one where all branches pass the same. */
  readonly branches: number
  readonly leavesBy: string | null
  readonly seenAs: readonly string[]
  readonly cause: {
    readonly code: string
    readonly object: string
    readonly inner?: { readonly code: string; readonly object: string }
  } | null
  /** The destinations, as prefixes; for the largest way of a family null, meaning all the rest. */
  readonly ranges: readonly string[] | null
  /** How many more ranges there are than those listed. */
  readonly moreRanges: number
  readonly family: Family
  /** The hosts this is true of: null for all of the subnet's, else ids of interfaces. */
  readonly hosts: readonly string[] | null
  /** A question that shows it. */
  readonly question: { readonly from: string; readonly to: string }
}

/** The ways out of one subnet to each kind of destination, routes alone. */
export type ExitRow = { readonly subnet: string } & {
  readonly [C in ExitColumn]: readonly ExitWay[]
}

/**
 * The rows of the Exits matrix for some subnets: by what their traffic leaves, column by column.
 */
export function exitsOf(model: Model, subnet: SubnetModel, memo: HopMemo = hopMemo()): ExitRow {
  const tables = hopsOf(model, subnet, memo)
  const ways = (column: ExitColumn): ExitWay[] => {
    const { all, without } = spreadOf(model, subnet, column, memo.grain)
    return exitsTo(model, subnet, tables, column, all, memo, without)
  }
  return {
    subnet: subnet.id,
    internet: ways('internet'),
    services: ways('services'),
    sites: ways('sites'),
    otherNetworks: ways('otherNetworks'),
    sameNetwork: ways('sameNetwork'),
  }
}

/** The ways out of a subnet to some destinations; `without` are some of them that are not meant. */
export function exitsTo(
  model: Model,
  subnet: SubnetModel,
  tables: readonly HopTable[],
  column: ExitColumn,
  destinations: RangeSet,
  memo: HopMemo,
  without?: RangeSet,
): ExitWay[] {
  const one = tables.length === 1
  return merge(
    tables.flatMap((table) => {
      const hosts =
        one || table.kind.interfaces.length === 0
          ? null
          : table.kind.interfaces.map((index) => model.interfaces[index]!.id)
      return ([4, 6] as const).flatMap((family) =>
        describe(
          model,
          subnet,
          table.kind,
          hosts,
          outcomesWithin(model, subnet, table, family, destinations, memo, {
            most: MOST_SHOWN,
            without,
          }),
          column,
        ),
      )
    }),
  )
}

/** More ranges of one way than this are only counted where they are shown to a person. */
const MOST_SHOWN = 24

function describe(
  model: Model,
  subnet: SubnetModel,
  kind: HostKind,
  hosts: readonly string[] | null,
  parts: readonly Part[],
  column: ExitColumn,
): ExitWay[] {
  const widest = parts.reduce(
    (best, part, index) => (part.span > parts[best]!.span ? index : best),
    0,
  )
  const from = askedFrom(model, subnet, kind)
  return parts.map(({ outcome: hop, ranges, more }, index): ExitWay => {
    const [first = []] = hop.ways
    const lowest = ranges[0]!.from
    const home = column === 'internet' ? undefined : longestMatch(model.subnetSpace, lowest)[0]
    const rest = index === widest
    const to =
      column === 'internet' && rest && typeof lowest === 'number'
        ? 'internet'
        : home === undefined
          ? formatAddress(lowest)
          : `subnet:${model.subnets[home]!.id}`
    const kindOfWay = kindOf(hop)
    return {
      kind: kindOfWay,
      by: hop.cause ? null : (first[0] ?? null),
      way: first,
      branches: hop.ways.length - 1,
      leavesBy: hop.leavesBy,
      seenAs: hop.seenAs,
      cause: hop.cause,
      ranges: rest ? null : prefixTexts(ranges),
      moreRanges: rest ? 0 : more,
      family: familyOf(lowest),
      hosts,
      question: { from, to },
    }
  })
}

const texts = new WeakMap<readonly Range[], readonly string[]>()

/** Ranges as prefixes: the same texts for all subnets that share the ranges. */
function prefixTexts(ranges: readonly Range[]): readonly string[] {
  let known = texts.get(ranges)
  if (!known) texts.set(ranges, (known = ranges.flatMap(prefixesOfRange).map(formatPrefix)))
  return known
}

/**
 * What a way is, by the strongest thing on it: an inspection, a translation, a service, a private
 * line, nothing but a door.
 */
export function kindOf(hop: Pick<Outcome, 'cause' | 'ways' | 'reaches'>): WayKind {
  if (hop.cause) return 'lost'
  const passed = hop.ways.flat()
  const has = (...sections: string[]): boolean =>
    passed.some((ref) => sections.some((section) => ref.startsWith(`${section}/`)))
  if (has('firewalls')) return 'inspected'
  if (has('nats')) return 'translated'
  if (has('endpoints') || passed.includes('service-switch')) return 'service'
  if (passed.length === 0) return 'local'
  return has('peerings', 'transits', 'sites') || hop.reaches?.startsWith('sites/')
    ? 'private-line'
    : 'direct'
}

/** One entry where several kinds of host share a way in all but the address they are seen as. */
function merge(ways: readonly ExitWay[]): ExitWay[] {
  const out: ExitWay[] = []
  // Most ways differ in what is cheap to compare.
  const places = new Map<string, number[]>()
  for (const way of ways) {
    const face = `${way.kind} ${way.by} ${way.branches} ${way.leavesBy} ${way.moreRanges} ${way.family}`
    const alike = places.get(face) ?? []
    const at = alike.find((place) => isSameWay(out[place]!, way))
    if (at === undefined) {
      places.set(face, [...alike, out.length])
      out.push(way)
      continue
    }
    const known = out[at]!
    out[at] = { ...known, hosts: known.hosts && way.hosts ? [...known.hosts, ...way.hosts] : null }
  }
  return out
}

const isSameWay = (a: ExitWay, b: ExitWay): boolean =>
  a.kind === b.kind &&
  a.branches === b.branches &&
  a.leavesBy === b.leavesBy &&
  a.moreRanges === b.moreRanges &&
  a.family === b.family &&
  sameItems(a.way, b.way) &&
  sameItems(a.seenAs, b.seenAs) &&
  isSameCause(a.cause, b.cause) &&
  (a.ranges === b.ranges ||
    (a.ranges !== null && b.ranges !== null && sameItems(a.ranges, b.ranges)))

const isSameCause = (a: ExitWay['cause'], b: ExitWay['cause']): boolean =>
  a === b ||
  (a !== null &&
    b !== null &&
    a.code === b.code &&
    a.object === b.object &&
    a.inner?.code === b.inner?.code &&
    a.inner?.object === b.inner?.object)
