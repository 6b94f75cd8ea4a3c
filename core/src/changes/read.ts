import { z } from 'zod'
import type { Estate } from '../format/estate'
import { applyOperation } from './apply'
import { documentOf, valueAt, type Document } from './document'
import { numbered } from './invert'
import { failed, type Change, type Failed, type Operation } from './operation'
import { pointerParts } from './pointer'

const path = z.string()
const value = z.json()

/** An operation as RFC 6902 has it; keys that it does not know are left aside, as it says. */
const written = z.discriminatedUnion('op', [
  z.object({ op: z.literal('add'), path, value }),
  z.object({ op: z.literal('replace'), path, value }),
  z.object({ op: z.literal('test'), path, value }),
  z.object({ op: z.literal('remove'), path }),
  z.object({ op: z.literal('move'), path, from: path }),
  z.object({ op: z.literal('copy'), path, from: path }),
])
type Written = z.output<typeof written>

/**
 * Reads a patch (RFC 6902) for an estate: `move` and `copy` are taken apart into the operations of
 * a change, and `-` becomes the number it stands for. Fails with the first operation that is
 * malformed or cannot be made.
 */
export function readChange(
  estate: Estate,
  patch: unknown,
): { readonly ok: true; readonly change: Change } | Failed {
  if (!Array.isArray(patch)) return failed(0, '', 'a patch is a list of operations')
  let document = documentOf(estate)
  const change: Operation[] = []
  for (const [at, one] of patch.entries()) {
    const read = written.safeParse(one)
    if (!read.success) return failed(at, pathOf(one), problemText(read.error.issues[0]!))
    const operations = takeApart(document, read.data)
    if (typeof operations === 'string') return failed(at, read.data.path, operations)
    for (const operation of operations) {
      const exact = withNumber(document, operation)
      const after = applyOperation(document, exact)
      if (typeof after === 'string') return failed(at, operation.path, after)
      change.push(exact)
      document = after
    }
  }
  return { ok: true, change }
}

const problemText = ({ path: [key], message }: z.core.$ZodIssue): string =>
  key === undefined ? `this is no operation: ${message}` : `"${String(key)}": ${message}`

const pathOf = (one: unknown): string => {
  const { path: text } = (one ?? {}) as { path?: unknown }
  return typeof text === 'string' ? text : ''
}

function takeApart(document: Document, operation: Written): readonly Operation[] | string {
  if (operation.op !== 'move' && operation.op !== 'copy') return [operation]
  const from = pointerParts(operation.from)
  const found = from && valueAt(document, from)
  if (!from || !found) return `there is nothing at ${operation.from}`
  const added = { op: 'add', path: operation.path, value: found.value } as const
  if (operation.op === 'copy') return [added]
  if (operation.path.startsWith(`${operation.from}/`))
    return `${operation.from} cannot be moved into itself`
  return [{ op: 'remove', path: operation.from }, added]
}

function withNumber(document: Document, operation: Operation): Operation {
  const parts = pointerParts(operation.path)
  const list = parts?.at(-1) === '-' ? valueAt(document, parts.slice(0, -1))?.value : undefined
  return Array.isArray(list) ? { ...operation, path: numbered(parts!, list) } : operation
}
