import {
  bitsOf,
  compareAddresses,
  familyOf,
  formatAddress,
  highestOf,
  lowestOf,
  nextAddress,
  previousAddress,
  type Address,
} from './address'
import { formatPrefix, lastAddress, type Prefix } from './prefix'

/** An inclusive span of addresses of one family. */
export interface Range {
  readonly from: Address
  readonly to: Address
}

/**
 * Ranges in ascending order that neither overlap nor touch: a set of addresses in its one normal
 * form.
 */
export type RangeSet = readonly Range[]

/** The addresses of a prefix as one range. */
export const rangeOf = (prefix: Prefix): Range => ({
  from: prefix.address,
  to: lastAddress(prefix),
})

/** The normal form of any ranges. */
export function rangeSet(ranges: Iterable<Range>): RangeSet {
  const given = [...ranges]
  if (given.length === 1) return [given[0]!]
  const sorted = given.sort((a, b) => compareAddresses(a.from, b.from))
  const out: { from: Address; to: Address }[] = []
  for (const range of sorted) {
    const last = out.at(-1)
    if (last && touches(last, range)) {
      if (compareAddresses(range.to, last.to) > 0) last.to = range.to
    } else out.push({ ...range })
  }
  return out
}

function touches(lower: Range, upper: Range): boolean {
  if (familyOf(lower.from) !== familyOf(upper.from)) return false
  const next = nextAddress(lower.to)
  return next === null || next >= upper.from
}

/** The addresses of some prefixes in normal form. Costs a sort. */
export const rangeSetOf = (prefixes: Iterable<Prefix>): RangeSet =>
  rangeSet([...prefixes].map(rangeOf))

/** The index of the range that holds `address`, or −1. */
export function rangeIndex(set: RangeSet, address: Address): number {
  let low = 0
  let high = set.length - 1
  while (low <= high) {
    const middle = (low + high) >>> 1
    const range = set[middle]!
    if (compareAddresses(address, range.from) < 0) high = middle - 1
    else if (compareAddresses(address, range.to) > 0) low = middle + 1
    else return middle
  }
  return -1
}

/** Whether a set contains an address. Costs a binary search. */
export const rangesContain = (set: RangeSet, address: Address): boolean =>
  rangeIndex(set, address) >= 0

/** The place of the first range that does not end before an address. */
export function firstFrom(ranges: readonly Range[], address: Address): number {
  let low = 0
  let high = ranges.length
  while (low < high) {
    const middle = (low + high) >>> 1
    if (compareAddresses(ranges[middle]!.to, address) < 0) low = middle + 1
    else high = middle
  }
  return low
}

/** What of a set lies in one span. */
export function partsWithin(set: RangeSet, span: Range): Range[] {
  const out: Range[] = []
  for (
    let at = firstFrom(set, span.from);
    at < set.length && compareAddresses(set[at]!.from, span.to) <= 0;
    at++
  )
    out.push(cut(set[at]!, span))
  return out
}

/** The lowest part of a set that lies in one span; null where none does. */
export function firstPart(set: RangeSet, span: Range): Range | null {
  const range = set[firstFrom(set, span.from)]
  return range !== undefined && compareAddresses(range.from, span.to) <= 0 ? cut(range, span) : null
}

/** What two ranges that meet have in common; the first itself where it lies in the other. */
export function cut(range: Range, span: Range): Range {
  const inside =
    compareAddresses(range.from, span.from) >= 0 && compareAddresses(range.to, span.to) <= 0
  return inside
    ? range
    : {
        from: range.from > span.from ? range.from : span.from,
        to: range.to < span.to ? range.to : span.to,
      }
}

/** All addresses of `set` that are not in `minus`. */
export function subtractRanges(set: RangeSet, minus: RangeSet): RangeSet {
  const out: Range[] = []
  if (set.length === 0 || minus.length === 0) return set
  let index = firstFrom(minus, set[0]!.from)
  for (const range of set) {
    let from: Address | null = range.from
    while (index < minus.length && compareAddresses(minus[index]!.to, range.from) < 0) index++
    for (let k = index; k < minus.length && from !== null; k++) {
      const hole = minus[k]!
      if (compareAddresses(hole.from, range.to) > 0) break
      if (compareAddresses(hole.from, from) > 0) out.push({ from, to: previousAddress(hole.from)! })
      from = compareAddresses(hole.to, range.to) >= 0 ? null : nextAddress(hole.to)
    }
    if (from !== null) out.push({ from, to: range.to })
  }
  return out
}

/** All addresses that are in both sets. */
export function intersectRanges(a: RangeSet, b: RangeSet): RangeSet {
  const out: Range[] = []
  if (a.length === 0 || b.length === 0) return out
  let i = firstFrom(a, b[0]!.from)
  let k = firstFrom(b, a[0]!.from)
  while (i < a.length && k < b.length) {
    const from = compareAddresses(a[i]!.from, b[k]!.from) > 0 ? a[i]!.from : b[k]!.from
    const aEndsFirst = compareAddresses(a[i]!.to, b[k]!.to) < 0
    const to = aEndsFirst ? a[i]!.to : b[k]!.to
    if (compareAddresses(from, to) <= 0) out.push({ from, to })
    if (aEndsFirst) i++
    else k++
  }
  return out
}

/**
 * The fewest prefixes that cover exactly `range`, in order (RFC 4632, 5.1: greedy by alignment).
 */
export function prefixesOfRange(range: Range): Prefix[] {
  const out: Prefix[] = []
  const bits = bitsOf(familyOf(range.from))
  let at: Address | null = range.from
  while (at !== null && at <= range.to) {
    const prefix: Prefix = { address: at, length: bits - sizeAt(at, range.to) }
    out.push(prefix)
    at = nextAddress(lastAddress(prefix))
  }
  return out
}

/** A range as text: a prefix where it is one, else `first-last`. */
export function rangeText(range: Range): string {
  const prefixes = prefixesOfRange(range)
  return prefixes.length === 1
    ? formatPrefix(prefixes[0]!)
    : `${formatAddress(range.from)}-${formatAddress(range.to)}`
}

/** The bits of the largest aligned block that begins at an address and ends by another. */
function sizeAt(from: Address, to: Address): number {
  if (typeof from === 'number') {
    const room = Math.floor(Math.log2((to as number) - from + 1))
    return from === 0 ? room : Math.min(room, 31 - Math.clz32(from & -from))
  }
  const room = ((to as bigint) - from + 1n).toString(2).length - 1
  return from === 0n ? room : Math.min(room, (from & -from).toString(2).length - 1)
}

/**
 * The widest span around `address` whose addresses are all in the set, or all outside it, as
 * `address` is.
 */
export function spanAround(set: RangeSet, address: Address): Range {
  const low = firstFrom(set, address)
  const at = set[low]
  if (at && compareAddresses(at.from, address) <= 0) return at
  const family = familyOf(address)
  const before = low > 0 && familyOf(set[low - 1]!.to) === family ? set[low - 1]! : undefined
  const after = at && familyOf(at.from) === family ? at : undefined
  return {
    from: before ? nextAddress(before.to)! : lowestOf(family),
    to: after ? previousAddress(after.from)! : highestOf(family),
  }
}

/** Whether two sets have the same ranges. Costs up to one step for each range. */
export const sameRanges = (a: RangeSet, b: RangeSet): boolean =>
  a === b ||
  (a.length === b.length && a.every((one, at) => one.from === b[at]!.from && one.to === b[at]!.to))
