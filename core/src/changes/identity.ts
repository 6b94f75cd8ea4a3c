import { applyOperation } from './apply'
import { valueAt, type Document } from './document'
import type { Operation } from './operation'
import { pointer, pointerParts } from './pointer'

/**
 * Positions in lists move when entries come and go, so a place is named by what stands there: a
 * member by its key, an entry by an identity that it keeps. Entries of the base are numbered, those
 * that an operation brings are named after the operation, so that two states that came from one
 * base name what they have in common alike.
 */
export interface Tracked {
  readonly document: Document
  /** The identities of the entries of each list that was looked at, by the place of the list. */
  readonly lists: Map<string, readonly string[]>
  /** Places whose value an operation wrote, with the name of the operation. */
  readonly written: Map<string, string>
}

/** A place by identities. */
export type Place = readonly string[]

/** A document before any operation. */
export const trackedOf = (document: Document): Tracked => ({
  document,
  lists: new Map(),
  written: new Map(),
})

const nameOf = (place: Place): string => pointer(...place)
const isWithin = (name: string, outer: string): boolean =>
  name === outer || name.startsWith(`${outer}/`)

/** The identities of the entries of a list. */
export function entriesAt(
  state: Tracked,
  place: Place,
  list: readonly unknown[],
): readonly string[] {
  const name = nameOf(place)
  const known = state.lists.get(name)
  if (known) return known
  const writer = [...state.written]
    .filter(([outer]) => isWithin(name, outer))
    .reduce((a, b) => (b[0].length >= a[0].length ? b : a), ['', 'base'])[1]
  const made = list.map((_, at) => `${writer} entry ${at}`)
  state.lists.set(name, made)
  return made
}

/** The place that a pointer leads to; the last part may be where something is to be put. */
export function placeOf(state: Tracked, parts: readonly string[]): Place {
  const place: string[] = []
  for (const [at, part] of parts.entries()) {
    const container = valueAt(state.document, parts.slice(0, at))?.value
    const isEntry = Array.isArray(container) && part !== '-'
    place.push(isEntry ? (entriesAt(state, place, container)[Number(part)] ?? part) : part)
  }
  return place
}

/** The pointer that leads to a place in a state; null where what it names is gone. */
export function partsOf(state: Tracked, place: Place): readonly string[] | null {
  const parts: string[] = []
  for (const [at, step] of place.entries()) {
    const container = valueAt(state.document, parts)
    if (container === null) return null
    if (Array.isArray(container.value)) {
      const number = entriesAt(state, place.slice(0, at), container.value).indexOf(step)
      if (number < 0) return null
      parts.push(String(number))
    } else parts.push(step)
  }
  return parts
}

/** The state after one operation that `by` names; null where it cannot be made. */
export function track(state: Tracked, operation: Operation, by: string): Tracked | null {
  const parts = pointerParts(operation.path)
  if (parts === null || parts.length === 0) return null
  const [last] = parts.slice(-1) as [string]
  const within = placeOf(state, parts.slice(0, -1))
  const container = valueAt(state.document, parts.slice(0, -1))?.value
  const list = Array.isArray(container) ? entriesAt(state, within, container) : null
  const number = last === '-' ? (list?.length ?? 0) : Number(last)
  const document = applyOperation(state.document, operation)
  if (typeof document === 'string') return null
  if (operation.op === 'test') return state
  const lists = new Map(state.lists)
  const written = new Map(state.written)
  const inserts = operation.op === 'add' && list !== null
  const place = [...within, inserts ? by : list ? list[number]! : last]
  for (const name of [...lists.keys()]) if (isWithin(name, nameOf(place))) lists.delete(name)
  if (operation.op !== 'remove') written.set(nameOf(place), by)
  if (inserts) lists.set(nameOf(within), [...list.slice(0, number), by, ...list.slice(number)])
  if (operation.op === 'remove' && list !== null)
    lists.set(nameOf(within), [...list.slice(0, number), ...list.slice(number + 1)])
  return { document, lists, written }
}
