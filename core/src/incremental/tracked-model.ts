/**
 * A model that stays the same object while the state behind it changes, and notes which cells read
 * what of it: lists and maps entry by entry, everything else as a whole.
 *
 * Example: a cell reads `model.subnets[7]`. The next state shares every subnet with this one but
 * number 7; `change` compares the entries that were read, by identity, and invalidates that cell
 * and no other.
 */
import {
  invalidate,
  isTracking,
  noObservers,
  observe,
  takeObservers,
  type Cell,
  type Observers,
} from './cells'

export interface TrackedModel<M> {
  readonly model: M
  /** Replaces the state, and invalidates every cell that read something that differs. */
  readonly change: (next: M) => void
}

/** How the properties of a model are read. Names of nested ones are paths, as `index.subnets`. */
export interface ModelShape {
  /** Objects whose properties are read one by one. */
  readonly nested: ReadonlySet<string>
  /** Whether a list is read as a whole instead of entry by entry. */
  readonly isWhole: (path: string) => boolean
}

/** A part of a model. Given its next value, it names the cells that read what differs. */
interface Part {
  readonly view: () => unknown
  readonly replace: (next: never) => Iterable<Cell>
}

/** A tracked model in its first state. Costs nothing for each object until it is read. */
export function trackedModel<M extends object>(first: M, shape: ModelShape): TrackedModel<M> {
  let current = first
  const root = trackedObject(first, '', shape)
  return {
    model: root.view() as M,
    change: (next) => {
      if (next === current) return
      current = next
      invalidate(root.replace(next as never))
    },
  }
}

/** An object whose properties are parts of their own. */
function trackedObject(first: object, path: string, shape: ModelShape): Part {
  let current = first
  const parts = new Map<string, Part>()
  const view = {}
  for (const [key, value] of Object.entries(first)) {
    const part = partOf(value, path + key, shape)
    parts.set(key, part)
    Object.defineProperty(view, key, { enumerable: true, get: part.view })
  }
  const replace = (next: object): Cell[] => {
    const out: Cell[] = []
    for (const [key, part] of parts) {
      const now = (next as Record<string, unknown>)[key]
      if (now === (current as Record<string, unknown>)[key]) continue
      for (const cell of part.replace(now as never)) out.push(cell)
    }
    current = next
    return out
  }
  return { view: () => view, replace }
}

function partOf(value: unknown, path: string, shape: ModelShape): Part {
  if (shape.nested.has(path)) return trackedObject(value as object, `${path}.`, shape)
  if (Array.isArray(value) && !shape.isWhole(path)) return trackedArray(value)
  if (value instanceof Map) return trackedMap(value)
  return wholePart(value)
}

/** A value that is read as a whole. */
function wholePart(first: unknown): Part {
  let current = first
  const observers = noObservers()
  return {
    view: () => {
      observe(observers)
      return current
    },
    replace: (next) => {
      current = next
      return takeObservers(observers)
    },
  }
}

/** A list whose entries are read one by one. Entries that do not exist are noted as well. */
function trackedArray(first: readonly unknown[]): Part {
  let current = first
  const entries: (Observers | undefined)[] = []
  const length = noObservers()
  const view = new Proxy([] as unknown[], {
    get: (target, key) => {
      if (typeof key === 'string') {
        const digit = key.charCodeAt(0)
        if (digit >= 48 && digit <= 57) {
          const at = Number(key)
          if (isTracking()) observe((entries[at] ??= noObservers()))
          return current[at]
        }
        if (key === 'length') {
          observe(length)
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
  const replace = (next: readonly unknown[]): Cell[] => {
    const out: Cell[] = []
    const most = Math.max(current.length, next.length)
    for (let at = 0; at < most; at++) {
      if (current[at] === next[at]) continue
      const observers = entries[at]
      if (observers) for (const cell of takeObservers(observers)) out.push(cell)
    }
    if (current.length !== next.length) for (const cell of takeObservers(length)) out.push(cell)
    current = next
    return out
  }
  return { view: () => view, replace }
}

/** A map whose entries are read one by one; iterating over it reads all of it. */
function trackedMap(first: ReadonlyMap<unknown, unknown>): Part {
  let current = first
  const entries = new Map<unknown, Observers>()
  const all = noObservers()
  const observeKey = (key: unknown): void => {
    if (!isTracking()) return
    let observers = entries.get(key)
    if (!observers) entries.set(key, (observers = noObservers()))
    observe(observers)
  }
  const through = (): ReadonlyMap<unknown, unknown> => {
    observe(all)
    return current
  }
  const view: ReadonlyMap<unknown, unknown> = {
    get: (key) => {
      observeKey(key)
      return current.get(key)
    },
    has: (key) => {
      observeKey(key)
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
  const replace = (next: ReadonlyMap<unknown, unknown>): Cell[] => {
    const out: Cell[] = []
    for (const [key, observers] of entries) {
      if (current.has(key) === next.has(key) && current.get(key) === next.get(key)) continue
      for (const cell of takeObservers(observers)) out.push(cell)
      entries.delete(key)
    }
    if (all.cells.length > 0 && !sameEntries(current, next))
      for (const cell of takeObservers(all)) out.push(cell)
    current = next
    return out
  }
  return { view: () => view, replace }
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
