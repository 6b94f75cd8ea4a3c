import type { Estate } from '../format/estate'
import { documentOf, sameJson, valueAt } from './document'
import { entriesAt, partsOf, placeOf, track, trackedOf, type Place, type Tracked } from './identity'
import { failed, type Change, type Failed, type Operation } from './operation'
import { pointer, pointerParts } from './pointer'

/** Where a change cannot follow another as it was meant. */
export interface Conflict {
  /** The operation of the rebased change that is meant, as it was. */
  readonly operation: Operation
  /**
   * `gone`: what it is about was taken out, and it is left out. `both-changed`: the other change
   * wrote the same place, and it is kept, so that it comes last.
   */
  readonly kind: 'gone' | 'both-changed'
  /** What the other change left at that place; undefined where there is nothing. */
  readonly theirs: unknown
}

export interface Rebased {
  readonly ok: true
  readonly change: Change
  readonly conflicts: readonly Conflict[]
}

/**
 * A change as it is to be made after another one that was made in the same base. Entries of lists
 * are known by what they were in the base, not by their numbers; of two entries put at one place,
 * theirs comes first; a `test` is kept. Fails where one of the changes cannot be made in the base.
 * Costs one pass over both changes. (In the manner of operational transformation: Ellis and Gibbs,
 * 1989, with identities for entries in place of transformed positions.)
 */
export function rebase(base: Estate, mine: Change, theirs: Change): Rebased | Failed {
  const document = documentOf(base)
  let other: Tracked = trackedOf(document)
  for (const [at, operation] of theirs.entries()) {
    const after = track(other, operation, `theirs ${at}`)
    if (after === null) return failed(at, operation.path, 'their change cannot be made in the base')
    other = after
  }
  let own: Tracked = trackedOf(document)
  let merged = other
  const change: Operation[] = []
  const conflicts: Conflict[] = []
  for (const [at, operation] of mine.entries()) {
    const by = `mine ${at}`
    const moved = moveOver(own, merged, operation)
    const before = own
    const after = track(own, operation, by)
    if (after === null) return failed(at, operation.path, 'the change cannot be made in the base')
    own = after
    if (moved === 'done') continue
    const put = moved === 'gone' ? null : track(merged, moved, by)
    if (moved === 'gone' || put === null) {
      conflicts.push({ operation, kind: 'gone', theirs: undefined })
      continue
    }
    const conflict = bothChanged(before, merged, operation, moved)
    if (conflict) conflicts.push(conflict)
    change.push(moved)
    merged = put
  }
  return { ok: true, change, conflicts }
}

/** An operation as it is in another state; `done` where there is nothing left to do. */
function moveOver(
  own: Tracked,
  merged: Tracked,
  operation: Operation,
): Operation | 'gone' | 'done' {
  const parts = pointerParts(operation.path)
  if (parts === null) return 'gone'
  const place = placeOf(own, parts)
  const container = valueAt(own.document, parts.slice(0, -1))?.value
  if (operation.op === 'add' && Array.isArray(container))
    return insertion(own, merged, operation, { parts, within: place.slice(0, -1), container })
  const there = partsOf(merged, place)
  if (operation.op === 'test')
    return there === null ? operation : { ...operation, path: pointer(...there) }
  const found = there && valueAt(merged.document, there)
  if (operation.op === 'remove') {
    if (!found) return partsOf(merged, place.slice(0, -1)) === null ? 'gone' : 'done'
    return { ...operation, path: pointer(...there!) }
  }
  if (there === null || (operation.op === 'replace' && !found)) return 'gone'
  if (found && sameJson(found.value, operation.value)) return 'done'
  return { ...operation, path: pointer(...there) }
}

interface Insertion {
  readonly parts: readonly string[]
  readonly within: Place
  readonly container: readonly unknown[]
}

/** An entry goes before the next one to its right that is still there, else to the end. */
function insertion(
  own: Tracked,
  merged: Tracked,
  operation: Operation & { readonly op: 'add' },
  { parts, within, container }: Insertion,
): Operation | 'gone' {
  const there = partsOf(merged, within)
  const list = there && valueAt(merged.document, there)?.value
  if (!there || !Array.isArray(list)) return 'gone'
  const last = parts.at(-1)!
  const number = last === '-' ? container.length : Number(last)
  const present = entriesAt(merged, within, list)
  const right = entriesAt(own, within, container)
    .slice(number)
    .find((entry) => present.includes(entry))
  const at = right === undefined ? list.length : present.indexOf(right)
  return { ...operation, path: pointer(...there, at) }
}

/** Whether the other change wrote the place that an operation writes, with something else. */
function bothChanged(
  own: Tracked,
  merged: Tracked,
  operation: Operation,
  moved: Operation,
): Conflict | null {
  if (operation.op === 'test') return null
  const container = valueAt(own.document, pointerParts(operation.path)!.slice(0, -1))?.value
  if (operation.op === 'add' && Array.isArray(container)) return null
  const mine = valueAt(own.document, pointerParts(operation.path)!)
  const theirs = valueAt(merged.document, pointerParts(moved.path)!)
  const same = mine && theirs ? sameJson(mine.value, theirs.value) : mine === theirs
  return same ? null : { operation, kind: 'both-changed', theirs: theirs?.value }
}
