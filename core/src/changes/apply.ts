import type { Estate } from '../format/estate'
import {
  documentOf,
  edited,
  estateOf,
  insert,
  put,
  sameJson,
  valueAt,
  without,
  type Document,
} from './document'
import { failed, type Change, type Failed, type Operation } from './operation'
import { pointerParts } from './pointer'

export interface Applied {
  readonly ok: true
  readonly estate: Estate
  /** What was done otherwise than most expect, such as an object that an `add` replaced. */
  readonly warnings: readonly string[]
}

/**
 * Makes a change in an estate (RFC 6902). Gives the estate after it, which shares everything the
 * change leaves alone, or says which operation cannot be made and why; then nothing is changed. The
 * estate after it may still be invalid: that is the reader's to say. Costs, for each operation, a
 * copy of the containers on its path.
 */
export function apply(estate: Estate, change: Change): Applied | Failed {
  let document = documentOf(estate)
  const warnings: string[] = []
  for (const [at, operation] of change.entries()) {
    const after = applyOperation(document, operation)
    if (typeof after === 'string') return failed(at, operation.path, after)
    if (operation.op === 'add' && replaces(document, operation.path))
      warnings.push(`${operation.path} was there already, and is replaced`)
    document = after
  }
  const made = estateOf(document)
  const last = change.length - 1
  if (typeof made === 'string') return failed(last, change[last]?.path ?? '', made)
  return { ok: true, estate: made, warnings }
}

/** Whether adding at a place replaces a member; in lists it never does. */
function replaces(document: Document, path: string): boolean {
  const parts = pointerParts(path)!
  const container = valueAt(document, parts.slice(0, -1))
  return !Array.isArray(container?.value) && valueAt(document, parts) !== null
}

/** The document after one operation, or a sentence that says why it cannot be made. */
export function applyOperation(document: Document, operation: Operation): Document | string {
  const parts = pointerParts(operation.path)
  if (parts === null)
    return `"${operation.path}" is no JSON pointer: it begins with / and escapes ~ as ~0`
  if (parts.length === 0) return 'the document as a whole is not changed by one operation'
  const here = valueAt(document, parts)
  if (operation.op === 'test') {
    if (here === null) return `there is nothing at ${operation.path}`
    return sameJson(here.value, operation.value)
      ? document
      : `${operation.path} is ${text(here.value)}, not ${text(operation.value)}`
  }
  if (operation.op !== 'add' && here === null) return missing(document, parts)
  const after = edited(document, parts, (container, part) => {
    if (operation.op === 'remove') return without(container, part)
    if (operation.op === 'replace') return put(container, part, operation.value)
    return insert(container, part, operation.value)
  })
  return after === null ? missing(document, parts) : (after as Document)
}

/** Which part of a path is the first that leads nowhere. */
function missing(document: Document, parts: readonly string[]): string {
  const found = parts.findIndex((_, at) => valueAt(document, parts.slice(0, at + 1)) === null)
  const before = parts.slice(0, found)
  const container = valueAt(document, before)!.value
  const where = before.length === 0 ? 'the estate' : before.join('/')
  const part = parts[found]!
  if (Array.isArray(container))
    return `${where} has ${container.length} entries, and no entry ${part}`
  if (typeof container !== 'object' || container === null)
    return `${where} is ${text(container)}, and has nothing inside`
  return `${where} has no "${part}"`
}

function text(value: unknown): string {
  const json = JSON.stringify(value instanceof Map ? Object.fromEntries(value) : value) ?? 'nothing'
  return json.length > 60 ? `${json.slice(0, 57)}…` : json
}
