import { invalidate, withObserver, currentObserver, type Cell } from '../incremental/cells'
import type { Model } from './model'

/**
 * A model that stays the same object while the estate behind it changes, and notes who reads what
 * of it: every object of a section by itself, everything else as a whole.
 */
export interface Watched {
  readonly model: Model
  /**
   * Replaces the state of the estate, and invalidates every cell that read something that differs.
   */
  readonly change: (next: Model) => void
}

/**
 * A value that is read piece by piece. Given another value, it names the cells that read what
 * differs.
 */
interface Part {
  readonly take: (next: never) => Iterable<Cell>
}

/** A model that notes who reads what of it, and can be given another state of the estate. */
export function watch(first: Model): Watched {
  let current = first
  const parts = new Map<string, Part>()
  const model = watchedObject(first as object, '') as Model
  return {
    model,
    change: (next) => {
      if (next === current) return
      const changed = takeObject(parts, '', current as object, next as object)
      current = next
      invalidate(changed)
    },
  }

  /** An object of known keys; each read by itself, those with many objects object by object. */
  function watchedObject(target: object, path: string): object {
    const out = {}
    for (const key of Object.keys(target)) {
      const name = path + key
      const view = viewOf(name, (target as Record<string, unknown>)[key])
      if (view !== undefined) Object.defineProperty(out, key, { enumerable: true, value: view })
      else {
        const readers = whole(parts, name)
        const at = name.split('.')
        Object.defineProperty(out, key, {
          enumerable: true,
          get: () => {
            readers.note()
            return valueAt(current, at)
          },
        })
      }
    }
    return out
  }

  function viewOf(name: string, value: unknown): unknown {
    if (OBJECTS.has(name)) return watchedObject(value as object, `${name}.`)
    if (name !== 'internetSpace' && Array.isArray(value) && !name.startsWith('estate.')) {
      const { view, part } = watchedArray(value)
      parts.set(name, part)
      return view
    }
    if (value instanceof Map) {
      const { view, part } = watchedMap(value)
      parts.set(name, part)
      return view
    }
    return undefined
  }
}

/** The parts of a model that have parts themselves. */
const OBJECTS: ReadonlySet<string> = new Set(['estate', 'index', 'attached'])

const valueAt = (root: unknown, path: readonly string[]): unknown =>
  path.reduce((at, key) => (at as Record<string, unknown>)[key], root)

interface Whole extends Part {
  readonly note: () => void
}

/** A value that is read as a whole. */
function whole(parts: Map<string, Part>, name: string): Whole {
  let readers: Cell[] = []
  let latest = 0
  const made: Whole = {
    note: () => {
      const cell = currentObserver()
      if (cell === null || latest === cell.number) return
      latest = cell.number
      readers = withObserver(readers, cell)
    },
    take: () => {
      const gone = readers
      readers = []
      latest = 0
      return gone
    },
  }
  parts.set(name, made)
  return made
}

function takeObject(
  parts: ReadonlyMap<string, Part>,
  path: string,
  old: object,
  next: object,
): Cell[] {
  const out: Cell[] = []
  for (const key of new Set([...Object.keys(old), ...Object.keys(next)])) {
    const name = path + key
    const [before, now] = [
      (old as Record<string, unknown>)[key],
      (next as Record<string, unknown>)[key],
    ]
    if (before === now) continue
    const part = parts.get(name)
    if (part) for (const cell of part.take(now as never)) out.push(cell)
    else if (OBJECTS.has(name))
      out.push(...takeObject(parts, `${name}.`, before as object, now as object))
  }
  return out
}

/** A list whose members are read one by one. */
function watchedArray(first: readonly unknown[]): { view: readonly unknown[]; part: Part } {
  let current = first
  let readers: (Cell[] | undefined)[] = []
  let latest: number[] = []
  let lengthReaders: Cell[] = []
  let lengthLatest = 0
  const note = (at: number): void => {
    const cell = currentObserver()
    if (cell === null || latest[at] === cell.number) return
    latest[at] = cell.number
    readers[at] = withObserver(readers[at] ?? [], cell)
  }
  const view = new Proxy([] as unknown[], {
    get: (target, key) => {
      if (typeof key === 'string') {
        const digit = key.charCodeAt(0)
        if (digit >= 48 && digit <= 57) {
          const at = Number(key)
          note(at)
          return current[at]
        }
        if (key === 'length') {
          const cell = currentObserver()
          if (cell !== null && lengthLatest !== cell.number) {
            lengthLatest = cell.number
            lengthReaders = withObserver(lengthReaders, cell)
          }
          return current.length
        }
      }
      return Reflect.get(target, key) as unknown
    },
    has: (target, key) =>
      typeof key === 'string' && key >= '0' && key < ':'
        ? Number(key) < current.length
        : Reflect.has(target, key),
  })
  const take = (next: readonly unknown[]): Cell[] => {
    const out: Cell[] = []
    const most = Math.max(current.length, next.length)
    for (let at = 0; at < most; at++) {
      if (current[at] === next[at]) continue
      const gone = readers[at]
      if (gone) for (const cell of gone) out.push(cell)
      readers[at] = undefined
      latest[at] = 0
    }
    // Reads of entries that do not exist are noted under the number -1.
    if (current.length !== next.length) {
      out.push(...lengthReaders)
      lengthReaders = []
      lengthLatest = 0
      readers = readers.slice(0, next.length)
      latest = latest.slice(0, next.length)
    }
    current = next
    return out
  }
  return { view, part: { take: take as Part['take'] } }
}

/** A map whose entries are read one by one; iterating over it reads all of it. */
function watchedMap(first: ReadonlyMap<unknown, unknown>): {
  view: ReadonlyMap<unknown, unknown>
  part: Part
} {
  let current = first
  const readers = new Map<unknown, { cells: Cell[]; latest: number }>()
  const all: { cells: Cell[]; latest: number } = { cells: [], latest: 0 }
  const note = (of: { cells: Cell[]; latest: number }): void => {
    const cell = currentObserver()
    if (cell === null || of.latest === cell.number) return
    of.latest = cell.number
    of.cells = withObserver(of.cells, cell)
  }
  const noteKey = (key: unknown): void => {
    if (currentObserver() === null) return
    let of = readers.get(key)
    if (!of) readers.set(key, (of = { cells: [], latest: 0 }))
    note(of)
  }
  const through = (): ReadonlyMap<unknown, unknown> => {
    note(all)
    return current
  }
  const view: ReadonlyMap<unknown, unknown> = {
    get: (key) => {
      noteKey(key)
      return current.get(key)
    },
    has: (key) => {
      noteKey(key)
      return current.has(key)
    },
    get size() {
      return through().size
    },
    forEach: (call) => through().forEach((value, key) => call(value, key, view)),
    keys: () => through().keys(),
    values: () => through().values(),
    entries: () => through().entries(),
    [Symbol.iterator]: () => through()[Symbol.iterator](),
  }
  const take = (next: ReadonlyMap<unknown, unknown>): Cell[] => {
    const out: Cell[] = []
    for (const [key, of] of readers) {
      if (current.has(key) === next.has(key) && current.get(key) === next.get(key)) continue
      for (const cell of of.cells) out.push(cell)
      readers.delete(key)
    }
    if (all.cells.length > 0 && !sameEntries(current, next)) {
      out.push(...all.cells)
      all.cells = []
      all.latest = 0
    }
    current = next
    return out
  }
  return { view, part: { take: take as Part['take'] } }
}

function sameEntries(a: ReadonlyMap<unknown, unknown>, b: ReadonlyMap<unknown, unknown>): boolean {
  if (a.size !== b.size) return false
  const others = b.entries()
  for (const [key, value] of a) {
    const other = others.next().value!
    if (other[0] !== key || value !== other[1]) return false
  }
  return true
}
