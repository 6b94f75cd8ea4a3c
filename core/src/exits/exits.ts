import { compareAddresses, familyOf, formatAddress, nextAddress, type Address, type Family } from '../address/address'
import { formatPrefix } from '../address/prefix'
import { longestMatch } from '../address/prefix-table'
import { firstFrom, firstPart, prefixesOfRange, type Range, type RangeSet } from '../address/ranges'
import { compared } from '../kept'
import { hopMemo, hopsOf, type HopMemo, type HopTable, type Part } from '../hops/hops'
import { EVERYTHING, type Wanted } from '../hops/behind'
import { identity, intern, type Outcome } from '../hops/onward'
import { expandRange, type Hop, type HopRange } from '../hops/sweep'
import type { HostKind } from '../hops/kinds'
import { sameItems, sameRanges } from '../model/derived'
import type { Model, SubnetModel } from '../model/model'
import { destinationsOf, type ExitColumn } from './columns'

/** The kinds of way a packet can go, after which cells are toned and lettered. */
export type WayKind = 'translated' | 'inspected' | 'direct' | 'private-line' | 'service' | 'local' | 'lost'

/** One way out of a subnet to one kind of destination. */
export interface ExitWay {
  readonly kind: WayKind
  /** The first element of the way, `section/id`; null for local delivery and lost packets. */
  readonly by: string | null
  readonly way: readonly string[]
  /** How many further branches of equal cost there are. */
  readonly branches: number
  readonly leavesBy: string | null
  readonly seenAs: readonly string[]
  readonly cause: { readonly code: string; readonly object: string; readonly inner?: { readonly code: string; readonly object: string } } | null
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
export type ExitRow = { readonly subnet: string } & { readonly [C in ExitColumn]: readonly ExitWay[] }

export function exitsOf(model: Model, subnet: SubnetModel, memo: HopMemo = hopMemo()): ExitRow {
  const tables = hopsOf(model, subnet, memo)
  const ways = (column: ExitColumn): ExitWay[] => exitsTo(model, subnet, tables, column, destinationsOf(model, subnet, column), memo)
  return {
    subnet: subnet.id,
    internet: ways('internet'),
    services: ways('services'),
    sites: ways('sites'),
    otherNetworks: ways('otherNetworks'),
    sameNetwork: ways('sameNetwork'),
  }
}

/** The ways out of a subnet to some destinations. */
export function exitsTo(model: Model, subnet: SubnetModel, tables: readonly HopTable[], column: ExitColumn, destinations: RangeSet, memo: HopMemo): ExitWay[] {
  const one = tables.length === 1
  return merge(
    tables.flatMap((table) => {
      const hosts = one || table.kind.interfaces.length === 0 ? null : table.kind.interfaces.map((index) => model.interfaces[index]!.id)
      return ([4, 6] as const).flatMap((family) =>
        describe(model, subnet, table.kind, hosts, meetHops(model, subnet, table, family, destinations, memo, EVERYTHING, MOST_SHOWN), column),
      )
    }),
  )
}

/** More ranges of one way than this are only counted where they are shown to a person. */
const MOST_SHOWN = 24

/** The parts of a subnet’s ranges that meet some destinations, by how packets fare there; of them those wanted. */
export function meetHops(
  model: Model,
  subnet: SubnetModel,
  table: HopTable,
  family: Family,
  destinations: RangeSet,
  memo: HopMemo,
  wanted: Wanted = EVERYTHING,
  most = Infinity,
): Part[] {
  // Subnets that share their routing share this too, but for what lies with them.
  const ranges = table.shared[family]
  const home = subnet.table >= 0 ? '' : subnet.ref
  const key = `${identity(ranges)} ${wanted.name} ${most} ${home} ${table.kind.hasPublicAddress ? table.kind.ref : ''}`
  let found = memo.meetings.get(destinations)
  if (!found) memo.meetings.set(destinations, (found = new Map()))
  const parts = compared(found, key, () => meetShared(model, subnet, table, ranges, destinations, memo, wanted, most), sameParts)
  return parts.map((part) => {
    const outcome = table.named(part.outcome)
    return outcome === part.outcome ? part : { ...part, outcome: intern(memo, outcome) }
  })
}

const sameParts = (a: readonly Part[], b: readonly Part[]): boolean =>
  a.length === b.length &&
  a.every((one, at) => {
    const other = b[at]!
    return one.outcome === other.outcome && one.more === other.more && one.span === other.span && sameRanges(one.ranges, other.ranges)
  })

function meetShared(
  model: Model,
  subnet: SubnetModel,
  table: HopTable,
  ranges: readonly HopRange[],
  destinations: RangeSet,
  memo: HopMemo,
  wanted: Wanted,
  most: number,
): Part[] {
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
  /** What of the destinations lies in a span; of a long run only the ends are looked at, and as many as are listed. */
  const addWithin = (outcome: Outcome, span: Range): void => {
    const from = firstFrom(destinations, span.from)
    const end = from < destinations.length && compareAddresses(destinations[from]!.from, span.to) <= 0 ? endWithin(destinations, from, span.to) : from
    for (let at = from; at < end; at++) {
      const known = add(outcome, at === from || at === end - 1 ? firstPart([destinations[at]!], span)! : destinations[at]!)
      const last = end - 2
      // Those between the ends neither touch nor are cut, so they are counted.
      if (known.ranges.length < most || at === from || at >= last) continue
      known.more += last - at
      const sizes = sizesOf(destinations)
      for (let between = at + 1; between <= last; between++) known.span += sizes[between]!
      known.last = destinations[last]!
      at = last
    }
  }
  for (const range of ranges) {
    const { behind } = range
    if (behind === null) {
      if (!wanted.has(range.hop)) continue
      const outcome = outcomeOf(memo, range.hop)
      addWithin(outcome, range)
      continue
    }
    if (firstPart(destinations, range) === null) continue
    for (const part of expandRange(model, subnet, table.kind, { ...range, behind }, memo, wanted)) {
      addWithin(part.outcome, part)
    }
  }
  return [...found].map(([outcome, { ranges: met, more, span }]) => ({ outcome, ranges: met, more, span }))
}

interface Met {
  readonly ranges: Range[]
  last: Range
  more: number
  span: number
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

/** What a hop comes to, without the routes that led there: one object for all that come to the same. */
function outcomeOf(memo: HopMemo, hop: Hop): Outcome {
  const known = outcomes.get(hop)
  if (known) return known
  const { ways, leavesBy, seenAs, cause, reaches } = hop
  const made = intern(memo, { ways, leavesBy, seenAs, cause, reaches })
  outcomes.set(hop, made)
  return made
}

function describe(model: Model, subnet: SubnetModel, kind: HostKind, hosts: readonly string[] | null, parts: readonly Part[], column: ExitColumn): ExitWay[] {
  const widest = parts.reduce((best, part, index) => (part.span > parts[best]!.span ? index : best), 0)
  const from = kind.interfaces.length > 0 ? `interface:${model.interfaces[kind.interfaces[0]!]!.id}` : `subnet:${subnet.id}`
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

/** What a way is, by the strongest thing on it: an inspection, a translation, a service, a private line, nothing but a door. */
export function kindOf(hop: Pick<Outcome, 'cause' | 'ways' | 'reaches'>): WayKind {
  if (hop.cause) return 'lost'
  const passed = hop.ways.flat()
  const has = (...sections: string[]): boolean => passed.some((ref) => sections.some((section) => ref.startsWith(`${section}/`)))
  if (has('firewalls')) return 'inspected'
  if (has('nats')) return 'translated'
  if (has('endpoints') || passed.includes('service-switch')) return 'service'
  if (passed.length === 0) return 'local'
  return has('peerings', 'transits', 'sites') || hop.reaches?.startsWith('sites/') ? 'private-line' : 'direct'
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
  (a.ranges === b.ranges || (a.ranges !== null && b.ranges !== null && sameItems(a.ranges, b.ranges)))

const isSameCause = (a: ExitWay['cause'], b: ExitWay['cause']): boolean =>
  a === b ||
  (a !== null && b !== null && a.code === b.code && a.object === b.object && a.inner?.code === b.inner?.code && a.inner?.object === b.inner?.object)
