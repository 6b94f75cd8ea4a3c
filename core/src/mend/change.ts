import type { Estate } from '../format/estate'
import { isListSection, isMapSection } from '../format/schema/document'

/** One change of an estate's document, as in RFC 6902: `path` is a JSON pointer (RFC 6901) into it. */
export type Change =
  | { readonly op: 'add' | 'replace'; readonly path: string; readonly value: unknown }
  | { readonly op: 'remove'; readonly path: string }

/** A JSON pointer from its parts. */
export const pointer = (...parts: (string | number)[]): string =>
  parts.map((part) => `/${String(part).replaceAll('~', '~0').replaceAll('/', '~1')}`).join('')

const partsOf = (path: string): string[] =>
  path
    .slice(1)
    .split('/')
    .map((part) => part.replaceAll('~1', '/').replaceAll('~0', '~'))

/** The estate with changes made, one after the other. What they leave alone is shared with the old one. Throws on a path that leads nowhere. */
export function applyChanges(estate: Estate, changes: readonly Change[]): Estate {
  return changes.reduce(applyChange, estate)
}

function applyChange(estate: Estate, change: Change): Estate {
  const [section, ...rest] = partsOf(change.path)
  if (section === undefined || !(isMapSection(section) || isListSection(section)))
    throw new Error(`${change.path} is in no section`)
  const order = estate.order.includes(section) ? estate.order : [...estate.order, section]
  if (isListSection(section))
    return { ...estate, order, [section]: changed(estate[section], rest, change) }
  const [id, ...inside] = rest
  const objects = new Map<string, unknown>(estate[section])
  if (id === undefined) throw new Error(`${change.path} names no object`)
  if (inside.length === 0 && change.op === 'remove') objects.delete(id)
  else objects.set(id, changed(objects.get(id), inside, change))
  return { ...estate, order, [section]: objects }
}

function changed(value: unknown, path: readonly string[], change: Change): unknown {
  const [key, ...rest] = path
  if (key === undefined) return change.op === 'remove' ? undefined : change.value
  if (Array.isArray(value)) {
    const list = [...(value as unknown[])]
    const at = key === '-' ? list.length : Number(key)
    if (rest.length > 0) list[at] = changed(list[at], rest, change)
    else if (change.op === 'add') list.splice(at, 0, change.value)
    else if (change.op === 'remove') list.splice(at, 1)
    else list[at] = change.value
    return list
  }
  if (typeof value !== 'object' || value === null) throw new Error(`${change.path} leads nowhere`)
  const entries = new Map(Object.entries(value))
  const made =
    rest.length === 0 && change.op === 'remove'
      ? undefined
      : changed(entries.get(key), rest, change)
  if (made === undefined) entries.delete(key)
  else entries.set(key, made)
  return Object.fromEntries(entries)
}
