import { documentOf, valueAt } from '../../src/changes/document'
import { apply, pointer, type Estate, type Change, type Operation } from '../../src/index'
import type { Random } from '../random/random'

/**
 * A place in a document at random, as the parts of a pointer: some way down, not always to a leaf.
 */
function somewhere(document: unknown, r: Random): string[] {
  const parts: string[] = []
  for (let at = document; ; at = valueAt(document, parts)!.value) {
    const keys =
      at instanceof Map
        ? [...(at as Map<string, unknown>).keys()]
        : typeof at === 'object' && at !== null
          ? Object.keys(at)
          : []
    const known = parts.length === 0 ? keys.filter((key) => key !== 'format') : keys
    if (known.length === 0 || (parts.length > 1 && r.chance(25))) return parts
    parts.push(r.pick(known))
  }
}

const value = (r: Random): unknown =>
  r.pick<unknown>([
    'up',
    7,
    true,
    null,
    { state: 'down' },
    ['10.0.0.0/8', '10.1.0.0/16'],
    [{ to: 'x' }],
  ])

/** One operation that can be made in an estate. */
function randomOperation(estate: Estate, r: Random): Operation {
  const document = documentOf(estate)
  const parts = somewhere(document, r)
  const path = pointer(...parts)
  const container = valueAt(document, parts.slice(0, -1))!.value
  if (parts.length < 2) return { op: 'test', path, value: valueAt(document, parts)!.value }
  if (Array.isArray(container) && r.chance(50)) {
    const at = r.pick<string | number>(['-', r.number(container.length + 1)])
    return { op: 'add', path: pointer(...parts.slice(0, -1), at), value: value(r) }
  }
  if (r.chance(25)) return { op: 'remove', path }
  if (r.chance(25) && !Array.isArray(container))
    return {
      op: 'add',
      path: pointer(...parts.slice(0, -1), `new-${r.number(5)}`),
      value: value(r),
    }
  // What a section holds stays an object, or the document is no estate.
  const written = parts.length === 2 ? { note: 'changed' } : value(r)
  return { op: 'replace', path, value: written }
}

/** Operations that can be made one after the other, inside the sections named or anywhere. */
export function randomChange(
  estate: Estate,
  r: Random,
  fits: (operation: Operation) => boolean = () => true,
): Change {
  let now = estate
  const change: Operation[] = []
  for (let tries = 0; tries < 60 && change.length < 6; tries++) {
    const operation = randomOperation(now, r)
    if (!fits(operation)) continue
    const after = apply(now, [operation])
    if (!after.ok) continue
    change.push(operation)
    now = after.estate
  }
  return change
}
