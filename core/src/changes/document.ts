import type { Estate } from '../format/estate'
import {
  FORMAT,
  isListSection,
  isMapSection,
  isSingleSection,
  LIST_SECTIONS,
  MAP_SECTIONS,
  SECTIONS,
  SINGLE_SECTIONS,
  type Section,
} from '../format/schema/document'

/**
 * The document of an estate as a tree that changes are made in: a map of sections, in each a map
 * from id to object, below that plain JSON. Ids of digits keep their place in a `Map`. Trees share
 * what a change leaves alone, so that compiling them again takes over what stayed the same.
 */
export type Document = ReadonlyMap<string, unknown>

/** The document of an estate: the sections it names, and those that hold anything. */
export function documentOf(estate: Estate): Document {
  const named = new Set<Section>(estate.order)
  const order = [...estate.order, ...SECTIONS.filter((section) => !named.has(section))]
  const present = order.filter((section) => named.has(section) || holdsAnything(estate[section]))
  return new Map<string, unknown>([
    ['format', FORMAT],
    ['name', estate.name],
    ...present.map((section) => [section, estate[section] ?? {}] as const),
  ])
}

function holdsAnything(section: unknown): boolean {
  if (section === null) return false
  return section instanceof Map ? section.size > 0 : !Array.isArray(section) || section.length > 0
}

/** The estate of a document; a sentence that says why where it is none. */
export function estateOf(document: Document): Estate | string {
  if (document.get('format') !== FORMAT) return `the format of an estate is ${FORMAT}`
  const name = document.get('name')
  if (typeof name !== 'string' || name === '') return 'the name of an estate is a text'
  const sections: Record<string, unknown> = {}
  for (const section of MAP_SECTIONS) sections[section] = new Map<string, unknown>()
  for (const section of LIST_SECTIONS) sections[section] = []
  for (const section of SINGLE_SECTIONS) sections[section] = null
  const order: Section[] = []
  for (const [key, value] of document) {
    if (key === 'format' || key === 'name') continue
    if (isMapSection(key)) {
      const map = mapOf(value)
      if (map === null) return `the section "${key}" is a map from id to object`
      sections[key] = map
    } else if (isListSection(key)) {
      if (!Array.isArray(value)) return `the section "${key}" is a list`
      sections[key] = value
    } else if (isSingleSection(key)) {
      if (mapOf(value) === null) return `the section "${key}" is a map`
      sections[key] = value
    } else return `"${key}" is no section of an estate`
    order.push(key)
  }
  return { name, ...sections, order } as unknown as Estate
}

function mapOf(value: unknown): ReadonlyMap<string, unknown> | null {
  if (value instanceof Map) return value as ReadonlyMap<string, unknown>
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return null
  return new Map(Object.entries(value))
}

/** What has members by name: a `Map`, or an object of JSON. */
type Members = ReadonlyMap<string, unknown> | Readonly<Record<string, unknown>>

const hasMembers = (value: unknown): value is Members =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

const entriesOf = (members: Members): Map<string, unknown> =>
  new Map(members instanceof Map ? (members as Map<string, unknown>) : Object.entries(members))

const asBefore = (members: Members, entries: Map<string, unknown>): Members =>
  members instanceof Map ? entries : (Object.fromEntries(entries) as Record<string, unknown>)

/** The number of an entry of a list; null where a part of a pointer is none (RFC 6901, 4). */
export function entryNumber(list: readonly unknown[], part: string): number | null {
  if (part === '-') return list.length
  return /^(0|[1-9]\d*)$/.test(part) && Number(part) <= list.length ? Number(part) : null
}

/** What a place holds: its value, or that there is nothing. */
export type Found = { readonly value: unknown } | null

/** The member or entry of a value that a part of a pointer names. */
export function memberOf(value: unknown, part: string): Found {
  if (Array.isArray(value)) {
    const at = entryNumber(value, part)
    return at === null || at >= value.length ? null : { value: value[at] as unknown }
  }
  if (!hasMembers(value)) return null
  if (value instanceof Map) return value.has(part) ? { value: value.get(part) } : null
  return Object.hasOwn(value, part) ? { value: (value as Record<string, unknown>)[part] } : null
}

/** What a document holds at a place. */
export const valueAt = (document: unknown, parts: readonly string[]): Found =>
  parts.reduce<Found>((found, part) => found && memberOf(found.value, part), { value: document })

/** What is done to the container of a place: it as it is afterwards; null where that cannot be. */
type Edit = (container: unknown, part: string) => unknown

/**
 * The document with one container edited; null where the way there, or the edit, is not possible.
 */
export function edited(document: unknown, parts: readonly string[], edit: Edit): unknown {
  const [part, ...rest] = parts
  if (part === undefined) return null
  if (rest.length === 0) return edit(document, part)
  const inner = memberOf(document, part)
  const after = inner && edited(inner.value, rest, edit)
  return after === null ? null : put(document, part, after)
}

function spliced(list: readonly unknown[], at: number, out: number, ...put: unknown[]): unknown[] {
  return [...list.slice(0, at), ...put, ...list.slice(at + out)]
}

/** A container with a member or an entry that is there replaced. */
export function put(container: unknown, part: string, value: unknown): unknown {
  if (memberOf(container, part) === null) return null
  if (Array.isArray(container)) return spliced(container, Number(part), 1, value)
  return asBefore(container as Members, entriesOf(container as Members).set(part, value))
}

/** A container with a member set, or an entry put before the one that is there. */
export function insert(container: unknown, part: string, value: unknown): unknown {
  if (Array.isArray(container)) {
    const at = entryNumber(container, part)
    return at === null ? null : spliced(container, at, 0, value)
  }
  if (!hasMembers(container)) return null
  return asBefore(container, entriesOf(container).set(part, value))
}

/** A container without a member or an entry. */
export function without(container: unknown, part: string): unknown {
  if (memberOf(container, part) === null) return null
  if (Array.isArray(container)) return spliced(container, Number(part), 1)
  const entries = entriesOf(container as Members)
  entries.delete(part)
  return asBefore(container as Members, entries)
}

/** Whether two values are the same JSON: order of lists counts, order of keys does not. */
export function sameJson(a: unknown, b: unknown): boolean {
  if (Object.is(a, b)) return true
  if (Array.isArray(a) || Array.isArray(b))
    return (
      Array.isArray(a) &&
      Array.isArray(b) &&
      a.length === b.length &&
      a.every((one, at) => sameJson(one, b[at]))
    )
  if (!hasMembers(a) || !hasMembers(b)) return false
  const [one, other] = [entriesOf(a), entriesOf(b)]
  return (
    one.size === other.size &&
    [...one].every(([key, value]) => other.has(key) && sameJson(value, other.get(key)))
  )
}
