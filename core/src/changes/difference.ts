import type { Estate } from '../format/estate'
import { documentOf, sameJson } from './document'
import type { Change, Operation } from './operation'
import { pointer } from './pointer'

/**
 * The change that makes one state of an estate of another: applied to `before` it gives the same
 * JSON value as `after`. Members are compared by their keys, entries of lists by their values: what
 * a list begins and ends with in both states is left alone, and of the rest as many entries as both
 * have are compared in place. Costs one pass over what the two do not share.
 */
export const changeBetween = (before: Estate, after: Estate): Change =>
  before === after ? [] : between(documentOf(before), documentOf(after), [])

/** The same for two values at a place, such as an object before and after it was edited. */
export function between(before: unknown, after: unknown, path: readonly string[]): Operation[] {
  if (before === after) return []
  if (Array.isArray(before) && Array.isArray(after)) return betweenLists(before, after, path)
  const [old, now] = [membersOf(before), membersOf(after)]
  if (old === null || now === null)
    return sameJson(before, after) ? [] : [{ op: 'replace', path: pointer(...path), value: after }]
  const operations: Operation[] = []
  for (const key of old.keys())
    if (!now.has(key)) operations.push({ op: 'remove', path: pointer(...path, key) })
  for (const [key, value] of now) {
    const place = [...path, key]
    if (old.has(key)) operations.push(...between(old.get(key), value, place))
    else operations.push({ op: 'add', path: pointer(...place), value })
  }
  return operations
}

function membersOf(value: unknown): ReadonlyMap<string, unknown> | null {
  if (value instanceof Map) return value as ReadonlyMap<string, unknown>
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return null
  return new Map(Object.entries(value))
}

function betweenLists(
  before: readonly unknown[],
  after: readonly unknown[],
  path: readonly string[],
): Operation[] {
  const most = Math.min(before.length, after.length)
  let first = 0
  while (first < most && sameJson(before[first], after[first])) first++
  let last = 0
  while (last < most - first && sameJson(before.at(-1 - last), after.at(-1 - last))) last++
  const [gone, come] = [before.length - first - last, after.length - first - last]
  const both = Math.min(gone, come)
  const operations: Operation[] = []
  for (let at = first; at < first + both; at++)
    operations.push(...between(before[at], after[at], [...path, String(at)]))
  for (let at = first + both; at < first + gone; at++)
    operations.push({ op: 'remove', path: pointer(...path, first + both) })
  for (let at = first + both; at < first + come; at++)
    operations.push({ op: 'add', path: pointer(...path, at), value: after[at] })
  return operations
}
