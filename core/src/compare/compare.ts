import type { Estate } from '../format/estate'
import { LIST_SECTIONS, MAP_SECTIONS, SINGLE_SECTIONS } from '../format/schema/document'

/** One object that differs between two estates. */
export interface ObjectChange {
  readonly object: string
  readonly kind: 'added' | 'removed' | 'changed'
  /** For a changed object: the keys whose values differ. */
  readonly keys: readonly string[]
}

/**
 * What changed from one estate to another, object by object, in the order of the format's sections.
 * The order of objects and of keys is no difference; the order of lists is.
 */
export function compareEstates(before: Estate, after: Estate): ObjectChange[] {
  const changes: ObjectChange[] = []
  if (before.name !== after.name) changes.push({ object: 'name', kind: 'changed', keys: ['name'] })
  for (const section of MAP_SECTIONS) {
    changes.push(
      ...compareMaps(
        section,
        before[section] as ReadonlyMap<string, object>,
        after[section] as ReadonlyMap<string, object>,
      ),
    )
  }
  for (const section of LIST_SECTIONS)
    changes.push(
      ...compareMaps(section, byName(section, before[section]), byName(section, after[section])),
    )
  for (const section of SINGLE_SECTIONS) {
    const keys = differingKeys(before[section] ?? {}, after[section] ?? {})
    if (keys.length > 0)
      changes.push({
        object: section,
        kind: before[section] === null ? 'added' : after[section] === null ? 'removed' : 'changed',
        keys,
      })
  }
  return changes
}

function compareMaps(
  section: string,
  before: ReadonlyMap<string, object>,
  after: ReadonlyMap<string, object>,
): ObjectChange[] {
  const changes: ObjectChange[] = []
  for (const [id, old] of before) {
    const now = after.get(id)
    if (now === undefined) changes.push({ object: `${section}/${id}`, kind: 'removed', keys: [] })
    else {
      const keys = differingKeys(old, now)
      if (keys.length > 0) changes.push({ object: `${section}/${id}`, kind: 'changed', keys })
    }
  }
  for (const id of after.keys())
    if (!before.has(id)) changes.push({ object: `${section}/${id}`, kind: 'added', keys: [] })
  return changes
}

/**
 * List entries under the name they are spoken of by: an estate rule's order, else their place.
 * Equal names get their place added.
 */
function byName(section: string, list: readonly object[]): Map<string, object> {
  const out = new Map<string, object>()
  list.forEach((entry, index) => {
    const name =
      section === 'estateRules' ? String((entry as { order: number }).order) : String(index + 1)
    out.set(out.has(name) ? `${name} (entry ${index + 1})` : name, entry)
  })
  return out
}

function differingKeys(before: object, after: object): string[] {
  const [a, b] = [before as Record<string, unknown>, after as Record<string, unknown>]
  return [...new Set([...Object.keys(a), ...Object.keys(b)])].filter(
    (key) => canonical(a[key]) !== canonical(b[key]),
  )
}

/** A value as text that does not depend on the order of keys. */
export function canonical(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonical).join(',')}]`
  if (typeof value !== 'object' || value === null) return JSON.stringify(value) ?? 'undefined'
  const entries = Object.entries(value).sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0))
  return `{${entries.map(([key, inner]) => `${JSON.stringify(key)}:${canonical(inner)}`).join(',')}}`
}
