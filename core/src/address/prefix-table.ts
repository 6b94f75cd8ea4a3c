import {
  familyOf,
  highestOf,
  lowestOf,
  nextAddress,
  previousAddress,
  type Address,
  type Family,
} from './address'
import { comparePrefixes, lastAddress, prefixFamily, type Prefix } from './prefix'

/** What a table holds: values under prefixes, several under one prefix if need be. */
export interface PrefixEntry<T> {
  readonly prefix: Prefix
  readonly value: T
}

/**
 * All values under one prefix; `parent` is the group of the next shorter prefix around it, or −1.
 */
interface Group<T> {
  readonly prefix: Prefix
  readonly values: readonly T[]
  readonly parent: number
}

/**
 * The groups that cover an address, longest prefix first, and the span of addresses for which they
 * are the same.
 */
export interface Match<T> {
  readonly groups: readonly { readonly prefix: Prefix; readonly values: readonly T[] }[]
  readonly from: Address
  readonly to: Address
}

/**
 * An immutable longest-prefix-match table that answers with *every* covering prefix, since a trace
 * has to say why each shorter one lost, and with the span over which the answer holds, since the
 * effective next hops are found by walking from span to span.
 *
 * The address space is cut at every place where the deepest covering prefix changes. A look-up is
 * one binary search over those cuts; parent links lead to the shorter prefixes. (The idea of a
 * table of disjoint ranges: Lampson, Srinivasan, Varghese, "IP lookups using multiway and
 * multicolumn search", 1999.)
 */
export interface PrefixTable<T> {
  readonly size: number
  readonly 4: Half<T>
  readonly 6: Half<T>
}

interface Half<T> {
  readonly groups: readonly Group<T>[]
  /** Where each span begins, ascending; the first is the lowest address of the family. */
  readonly starts: Uint32Array | readonly bigint[]
  /**
   * For large IPv4 tables: where the spans of each block of 2¹⁶ addresses begin (65,537 places), so
   * that a search looks at a few neighbours only. Null where it would cost more memory than it
   * saves time.
   */
  readonly blocks: Int32Array | null
  /** For each span the group of its longest prefix, or −1. */
  readonly deepest: Int32Array
  /** For each group the length of its prefix. */
  readonly lengths: Uint8Array
}

/** Everything in a table, IPv4 first, by ascending prefix. */
export const entriesOf = <T>(table: PrefixTable<T>): PrefixEntry<T>[] =>
  [...table[4].groups, ...table[6].groups].flatMap(({ prefix, values }) =>
    values.map((value) => ({ prefix, value })),
  )

/** A table of values by prefix, in any order and with any overlaps. Costs a sort of the entries. */
export function prefixTable<T>(entries: readonly PrefixEntry<T>[]): PrefixTable<T> {
  const sorted = [...entries].sort((a, b) => comparePrefixes(a.prefix, b.prefix))
  const half = (family: Family): Half<T> =>
    buildHalf(
      sorted.filter((e) => prefixFamily(e.prefix) === family),
      family,
    )
  return { size: entries.length, 4: half(4), 6: half(6) }
}

function buildHalf<T>(sorted: readonly PrefixEntry<T>[], family: Family): Half<T> {
  const groups: { prefix: Prefix; values: T[]; parent: number }[] = []
  const starts: Address[] = [lowestOf(family)]
  const deepest: number[] = [-1]
  const open: number[] = []
  const cut = (at: Address, group: number): void => {
    if (starts.at(-1) === at) deepest[deepest.length - 1] = group
    else {
      starts.push(at)
      deepest.push(group)
    }
  }
  const closeUntil = (before: Address | null): void => {
    while (open.length > 0) {
      const last = lastAddress(groups[open.at(-1)!]!.prefix)
      if (before !== null && last >= before) return
      open.pop()
      const next = nextAddress(last)
      if (next !== null) cut(next, open.at(-1) ?? -1)
    }
  }
  for (const { prefix, value } of sorted) {
    const top = groups.at(-1)
    if (top && top.prefix.address === prefix.address && top.prefix.length === prefix.length) {
      top.values.push(value)
      continue
    }
    closeUntil(prefix.address)
    groups.push({ prefix, values: [value], parent: open.at(-1) ?? -1 })
    open.push(groups.length - 1)
    cut(prefix.address, groups.length - 1)
  }
  closeUntil(null)
  const rest = {
    groups,
    deepest: Int32Array.from(deepest),
    lengths: Uint8Array.from(groups, (group) => group.prefix.length),
  }
  if (family === 6) return { ...rest, starts: starts as bigint[], blocks: null }
  const sorted4 = Uint32Array.from(starts as number[])
  return {
    ...rest,
    starts: sorted4,
    blocks: sorted4.length > WORTH_BLOCKS ? blocksOf(sorted4) : null,
  }
}

const WORTH_BLOCKS = 4096

function blocksOf(starts: Uint32Array): Int32Array {
  const blocks = new Int32Array(65537)
  let span = 0
  for (let block = 0; block < 65536; block++) {
    while (span + 1 < starts.length && starts[span + 1]! <= block * 65536) span++
    blocks[block] = span
  }
  blocks[65536] = starts.length - 1
  return blocks
}

/** The span that holds an address: the last one that begins at or before it. */
function spanOf<T>(half: Half<T>, address: Address): number {
  return typeof address === 'number'
    ? spanOf4(half.starts as Uint32Array, half.blocks, address)
    : spanOf6(half.starts as readonly bigint[], address)
}

function spanOf4(starts: Uint32Array, blocks: Int32Array | null, address: number): number {
  let low = 0
  let high = starts.length - 1
  if (blocks !== null) {
    const block = address >>> 16
    low = blocks[block]!
    high = blocks[block + 1]!
  }
  while (low < high) {
    const middle = (low + high + 1) >>> 1
    if (starts[middle]! <= address) low = middle
    else high = middle - 1
  }
  return low
}

function spanOf6(starts: readonly bigint[], address: bigint): number {
  let low = 0
  let high = starts.length - 1
  while (low < high) {
    const middle = (low + high + 1) >>> 1
    if (starts[middle]! <= address) low = middle
    else high = middle - 1
  }
  return low
}

/** Every prefix that covers `address`, longest first. */
export function matchAll<T>(table: PrefixTable<T>, address: Address): Match<T> {
  const family = familyOf(address)
  const half = table[family]
  const span = spanOf(half, address)
  const groups: Group<T>[] = []
  for (let at = half.deepest[span]!; at >= 0; at = half.groups[at]!.parent)
    groups.push(half.groups[at]!)
  const starts = half.starts as ArrayLike<Address>
  const next = span + 1 < starts.length ? starts[span + 1]! : null
  return {
    groups,
    from: starts[span]!,
    to: next === null ? highestOf(family) : previousAddress(next)!,
  }
}

/** The values under the longest prefix that covers `address`, or an empty list. */
export function longestMatch<T>(table: PrefixTable<T>, address: Address): readonly T[] {
  const half = table[familyOf(address)]
  const group = half.deepest[spanOf(half, address)]!
  return group < 0 ? [] : half.groups[group]!.values
}

/** The longest prefix length that covers `address`, or −1. */
export function longestLength<T>(table: PrefixTable<T>, address: Address): number {
  const half = table[familyOf(address)]
  const group = half.deepest[spanOf(half, address)]!
  return group < 0 ? -1 : half.lengths[group]!
}

/** The whole address space of a family as one range. */
export const wholeSpace = (family: Family): { from: Address; to: Address } => ({
  from: lowestOf(family),
  to: highestOf(family),
})
