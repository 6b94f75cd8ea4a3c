import type { Estate } from '../format/estate'
import { applyOperation } from './apply'
import { documentOf, valueAt, type Document } from './document'
import { failed, type Change, type Failed, type Operation } from './operation'
import { pointer, pointerParts } from './pointer'

/**
 * What undoes a change, given the estate it is made in: applied to the estate after the change it
 * gives the same JSON value, order of lists included, order of keys not. Fails where the change
 * cannot be made. Costs as much as `apply`.
 */
export function invert(
  estate: Estate,
  change: Change,
): { readonly ok: true; readonly change: Change } | Failed {
  let document = documentOf(estate)
  const inverse: Operation[] = []
  for (const [at, operation] of change.entries()) {
    const after = applyOperation(document, operation)
    if (typeof after === 'string') return failed(at, operation.path, after)
    inverse.unshift(inverseOf(document, operation))
    document = after
  }
  return { ok: true, change: inverse }
}

function inverseOf(document: Document, operation: Operation): Operation {
  const parts = pointerParts(operation.path)!
  const before = valueAt(document, parts)
  const container = valueAt(document, parts.slice(0, -1))!.value
  switch (operation.op) {
    case 'test':
      return operation
    case 'remove':
      return { op: 'add', path: operation.path, value: before!.value }
    case 'replace':
      return { op: 'replace', path: operation.path, value: before!.value }
    case 'add': {
      if (Array.isArray(container)) return { op: 'remove', path: numbered(parts, container) }
      return before === null
        ? { op: 'remove', path: operation.path }
        : { op: 'replace', path: operation.path, value: before.value }
    }
  }
}

/** The path of an entry that is put at the end of a list, by its number. */
export const numbered = (parts: readonly string[], list: readonly unknown[]): string =>
  parts.at(-1) === '-' ? pointer(...parts.slice(0, -1), list.length) : pointer(...parts)
