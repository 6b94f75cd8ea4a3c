import { cached } from '../incremental/cells'
import {
  highestOf,
  lowestOf,
  nextAddress,
  previousAddress,
  familyOf,
  type Address,
} from '../address/address'

import { containsAddress, type Prefix } from '../address/prefix'
import { matchAll, type Match, type PrefixTable } from '../address/prefix-table'
import { PUBLIC_SPANS } from '../address/public'
import { rangeOf, rangesContain, spanAround, type Range, type RangeSet } from '../address/ranges'
import type { Owner } from '../model/model'
import { meet, type Field } from '../packet/packet-set'
import type { NoteField } from '../rules/condition'
import type { State, WalkContext } from './state'
import type { Fields } from './fields'

/** Told the span of a field for which what was asked of it has the same answer. */
export type Note = (span: Range) => void
export type { NoteField }

/** Narrows a field of the packet to a span that holds its value. */
export function narrow(
  { scope }: Pick<WalkContext, 'scope'>,
  { fields }: Pick<State, 'fields'>,
  field: Field,
  span: Range,
): void {
  if (scope === null) return
  const origin = field === 'protocol' ? 'protocol' : fields[field]
  if (origin === null) return
  const met = meet(scope.box[origin], span)
  if (met !== null) scope.box[origin] = met
}

/** What narrows one field of a walk; undefined where the walk has no scope. */
export const noteFor = (
  context: Pick<WalkContext, 'scope'>,
  state: Pick<State, 'fields'>,
  field: Field,
): Note | undefined =>
  context.scope === null ? undefined : (span) => narrow(context, state, field, span)

/**
 * The note for a source that is asked in a network; none where all sources of the kind have the
 * same answer.
 */
export const noteForSource = (
  context: WalkContext,
  state: State,
  network: number,
): Note | undefined =>
  context.home === network && state.fields.src === 'src'
    ? undefined
    : noteFor(context, state, 'src')

/** The note for whether a field is public; none where that is known of all that are meant. */
export const noteForPublic = (
  context: WalkContext,
  state: State,
  field: 'src' | 'dst',
): Note | undefined =>
  context.publicSources && state.fields[field] === 'src'
    ? undefined
    : noteFor(context, state, field)

/** What narrows any field of a walk; undefined where the walk has no scope. */
export const noteAll = (
  context: Pick<WalkContext, 'scope'>,
  state: Pick<State, 'fields'>,
): NoteField | undefined =>
  context.scope === null ? undefined : (field, span) => narrow(context, state, field, span)

/** The span on the side of `hole` that `value`, which is not in it, is on. */
export function beside(hole: Range, value: Address): Range {
  const family = familyOf(value)
  return value < hole.from
    ? { from: lowestOf(family), to: previousAddress(hole.from)! }
    : { from: nextAddress(hole.to)!, to: highestOf(family) }
}

const only = (value: Address): Range => ({ from: value, to: value })

/**
 * Whether an address is in one of some prefixes; those before the first that holds it are left
 * aside.
 */
export function inPrefixes(
  prefixes: readonly Prefix[],
  address: Address,
  note: Note | undefined,
): boolean {
  for (const prefix of prefixes) {
    if (typeof prefix.address !== typeof address) continue
    const holds = containsAddress(prefix, address)
    note?.(holds ? rangeOf(prefix) : beside(rangeOf(prefix), address))
    if (holds) return true
  }
  return false
}

/** Whether an address is in a set of ranges. */
export function rangesContainHere(
  set: RangeSet,
  address: Address,
  note: Note | undefined,
): boolean {
  note?.(spanAround(set, address))
  return rangesContain(set, address)
}

/** Whether an address is public. */
export function isPublicHere(address: Address, note: Note | undefined): boolean {
  const span = PUBLIC_SPANS[familyOf(address)].find(
    ({ from, to }) => from <= address && address <= to,
  )!
  note?.(span)
  return span.public
}

/** Whether a field is a value. */
export function isValue<T extends Address>(
  field: T | null,
  value: T | null,
  note: Note | undefined,
): boolean {
  if (field === null || value === null) return field === value
  if (typeof field !== typeof value) return false
  note?.(field === value ? only(value) : beside(only(value), field))
  return field === value
}

type Origin = Fields[keyof Fields]
type Valued = readonly [value: Address | null, origin: Origin]

/** Whether two values are the same, each a field of the first packet or a constant. */
export function sameField(
  { scope }: Pick<WalkContext, 'scope'>,
  [a, from]: Valued,
  [b, other]: Valued,
): boolean {
  // The same field is the same whatever its value.
  if (scope === null || from === other || a === null || b === null || typeof a !== typeof b)
    return a === b
  const keep = (field: Origin, span: Range): void => {
    const met = field === null ? null : meet(scope.box[field], span)
    if (field !== null && met !== null) scope.box[field] = met
  }
  if (a === b) {
    keep(from, only(a))
    keep(other, only(b))
    return true
  }
  if (from === null || other === null) {
    if (from !== null) keep(from, beside(only(b), a))
    if (other !== null) keep(other, beside(only(a), b))
    return false
  }
  // Two fields that differ are kept apart by a cut between them.
  const [low, lowField, high, highField] = a < b ? [a, from, b, other] : [b, other, a, from]
  keep(lowField, { from: lowestOf(familyOf(low)), to: low })
  keep(highField, { from: nextAddress(low)!, to: highestOf(familyOf(high)) })
  return false
}

/** Every prefix of a table that covers an address. */
export function matchHere<T>(
  table: PrefixTable<T>,
  address: Address,
  note: Note | undefined,
): Match<T> {
  const match = matchAll(table, address)
  note?.(match)
  return match
}

/** The values under the longest prefix that covers an address. */
export const longestHere = <T>(
  table: PrefixTable<T>,
  address: Address,
  note: Note | undefined,
): readonly T[] => matchHere(table, address, note).groups[0]?.values ?? []

interface Keyed {
  readonly keys: () => Iterable<Address>
}

const sortedKeys = new WeakMap<Keyed, { readonly 4: Float64Array; readonly 6: readonly bigint[] }>()

const keysOf = (map: Keyed): { readonly 4: Float64Array; readonly 6: readonly bigint[] } =>
  cached(sortedKeys, map, () => {
    const v4: number[] = []
    const v6: bigint[] = []
    for (const key of map.keys()) {
      if (typeof key === 'number') v4.push(key)
      else v6.push(key)
    }
    return { 4: Float64Array.from(v4).sort(), 6: v6.sort((a, b) => (a < b ? -1 : 1)) }
  })

/**
 * What a map has for an address: the address alone where it has it, else the gap between its
 * neighbours.
 */
export function entryHere<T>(
  map: ReadonlyMap<Address, T>,
  address: Address,
  note: Note | undefined,
): T | undefined {
  const found = map.get(address)
  if (note === undefined) return found
  note(found === undefined ? gapAround(keysOf(map)[familyOf(address)], address) : only(address))
  return found
}

/** Whether a set has an address. */
export function memberHere(
  set: ReadonlySet<Address>,
  address: Address,
  note: Note | undefined,
): boolean {
  const found = set.has(address)
  note?.(found ? only(address) : gapAround(keysOf(set)[familyOf(address)], address))
  return found
}

/** The owner of an address, noting the span with the same answer. */
export const ownerHere = (
  owners: ReadonlyMap<Address, Owner>,
  address: Address,
  note: Note | undefined,
): Owner | undefined => entryHere(owners, address, note)

/** The span of addresses around one that is not among sorted ones, up to its neighbours there. */
export function gapAround(sorted: ArrayLike<Address>, address: Address): Range {
  let low = 0
  let high = sorted.length
  while (low < high) {
    const middle = (low + high) >>> 1
    if (sorted[middle]! < address) low = middle + 1
    else high = middle
  }
  const family = familyOf(address)
  return {
    from: low === 0 ? lowestOf(family) : nextAddress(sorted[low - 1]!)!,
    to: low === sorted.length ? highestOf(family) : previousAddress(sorted[low]!)!,
  }
}
