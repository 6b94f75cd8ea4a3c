import { edited, insert, put, without } from './document'
import type { Change, Operation } from './operation'
import { isInside, pointerParts } from './pointer'

/**
 * Two changes that are made one after the other as one: applied, it gives what both give in turn.
 * An operation that follows one at the same place, or inside what that one wrote, is folded into
 * it, so that typing a text makes one operation. Costs one pass over the operations.
 */
export function merge(first: Change, second: Change): Change {
  const merged = [...first]
  for (const operation of second) {
    const last = merged.at(-1)
    const one = last && folded(last, operation)
    if (one === undefined || one === null) merged.push(operation)
    else merged[merged.length - 1] = one
  }
  return merged
}

/** One operation that does what two do in turn; null where there is none. */
function folded(last: Operation, next: Operation): Operation | null {
  if (last.op === 'remove' || last.op === 'test' || next.op === 'test') return null
  if (next.path === last.path) {
    if (next.op === 'replace') return { ...last, value: next.value }
    // Something new that goes again may have been put over something older, so it stays two.
    if (next.op === 'remove') return last.op === 'replace' ? next : null
    return namesMember(next.path) ? { ...last, value: next.value } : null
  }
  if (!isInside(next.path, last.path)) return null
  const inner = pointerParts(next.path.slice(last.path.length))!
  const value = edited(last.value, inner, (container, part) => {
    if (next.op === 'remove') return without(container, part)
    return (next.op === 'replace' ? put : insert)(container, part, next.value)
  })
  return value === null ? null : { ...last, value }
}

/** Whether a path surely names a member of a map, by name, and no entry of a list. */
const namesMember = (path: string): boolean => !/^(-|\d+)$/.test(pointerParts(path)!.at(-1)!)
