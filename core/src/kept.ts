/**
 * What is computed once and kept, and told apart from what must be computed again after a change.
 *
 * Whoever only asks once pays nothing for it: outside of `following` a kept value is an entry of a
 * map. Within, everything that is kept is a cell, which knows who read it; what reads the estate
 * (`model/watched.ts`) and other cells is noted as it happens, so nobody declares what depends on
 * what. A change drops the cells that read what changed, and those that read them; whatever asks
 * again computes only those. (Demand-driven incremental computing, as in the literature on
 * self-adjusting computation and build systems with dynamic dependencies.)
 */
export interface Cell {
  readonly number: number
  /** Those that read it, each at least once. */
  readers: Cell[]
  /** The last one noted, so that most are noted once. */
  latest: number
  live: boolean
  /** Whether what it read has changed, for one that is compared before its readers are dropped. */
  stale: boolean
  readonly drop: () => void
  /** Computes it anew; whether it is another now. Null for those that are dropped at once. */
  readonly again: (() => boolean) | null
}

let current: Cell | null = null
let numbers = 0

const cellOf = (drop: () => void, again: (() => boolean) | null): Cell => ({
  number: ++numbers,
  readers: [],
  latest: 0,
  live: true,
  stale: false,
  drop,
  again,
})

/** Who is computing now, if anybody follows what is read. */
export const reader = (): Cell | null => current

function run<T>(cell: Cell, make: () => T): T {
  const before = current
  current = cell
  try {
    return make()
  } finally {
    current = before
  }
}

function note(cell: Cell): void {
  if (cell.stale) renew(cell)
  if (current === null || current === cell || cell.latest === current.number) return
  cell.latest = current.number
  cell.readers = noted(cell.readers, current)
}

/** A list of readers with one more; now and then without those that are gone, and each once. */
export function noted(readers: Cell[], one: Cell): Cell[] {
  readers.push(one)
  return readers.length >= 64 && (readers.length & (readers.length - 1)) === 0
    ? [...new Set(readers)].filter((each) => each.live)
    : readers
}

/** Computes with everything that is read noted, from now until it is dropped. */
export const following = <T>(make: () => T): T => run(cellOf(nothing, null), make)
const nothing = (): void => undefined

const cells = new WeakMap<object, Map<unknown, Cell>>()

function cellsIn(map: object): Map<unknown, Cell> {
  let known = cells.get(map)
  if (!known) cells.set(map, (known = new Map()))
  return known
}

/** A `Map` or a `WeakMap`. */
interface Keeps<K, T> {
  get: (key: K) => T | undefined
  has: (key: K) => boolean
  set: (key: K, value: T) => unknown
  delete: (key: K) => boolean
}

/** The value of a key, computed when it is first asked for. */
export function kept<K, T>(map: Keeps<K, T>, key: K, make: () => T): T {
  if (current === null) {
    const known = map.get(key)
    if (known !== undefined || map.has(key)) return known as T
    const made = make()
    map.set(key, made)
    return made
  }
  const own = cellsIn(map)
  let cell = own.get(key)
  if (!cell) {
    cell = cellOf(() => {
      map.delete(key)
      own.delete(key)
    }, null)
    own.set(key, cell)
    try {
      map.set(key, run(cell, make))
    } catch (error) {
      own.delete(key)
      throw error
    }
  }
  note(cell)
  return map.get(key) as T
}

/**
 * The same for what many read and few changes alter: after a change it is computed again and
 * compared, and only if it is another are its readers dropped.
 */
export function compared<K, T>(
  map: Map<K, T>,
  key: K,
  make: () => T,
  same: (before: T, now: T) => boolean,
): T {
  if (current === null) return kept(map, key, make)
  const own = cellsIn(map)
  let cell = own.get(key)
  if (!cell) {
    const made: Cell = cellOf(
      () => {
        map.delete(key)
        own.delete(key)
      },
      () => {
        const before = map.get(key) as T
        const now = run(made, make)
        if (same(before, now)) return false
        map.set(key, now)
        return true
      },
    )
    cell = made
    map.set(key, run(cell, make))
    own.set(key, cell)
  }
  note(cell)
  return map.get(key) as T
}

/** Adds to a kept value what is found for one who asks, on the account of the value. */
export function extend<T>(map: object, key: unknown, make: () => T): T {
  const cell = current === null ? undefined : cells.get(map)?.get(key)
  return cell ? run(cell, make) : make()
}

/** What is made when it is first asked for, on the account of whoever has it made. */
export function once<T>(make: () => T): () => T {
  let made: { readonly value: T } | undefined
  const owner = current
  return () => (made ??= { value: owner ? run(owner, make) : make() }).value
}

const waiting: Cell[] = []

/** Drops cells that read what has changed, and all that read them. */
export function dropAll(changed: Iterable<Cell>): void {
  for (const cell of changed) drop(cell)
  for (let cell = waiting.pop(); cell; cell = waiting.pop()) if (cell.stale) renew(cell)
}

function drop(first: Cell): void {
  const pending = [first]
  for (let cell = pending.pop(); cell; cell = pending.pop()) {
    if (!cell.live || cell.stale) continue
    if (cell.again) {
      cell.stale = true
      waiting.push(cell)
      continue
    }
    cell.live = false
    cell.drop()
    const { readers } = cell
    cell.readers = []
    for (const one of readers) pending.push(one)
  }
}

/** Computes a compared value again; where it is another, its readers are dropped. */
function renew(cell: Cell): void {
  cell.stale = false
  let changed: boolean
  try {
    changed = cell.again!()
  } catch {
    // What it was asked of is gone. Whoever still asks for it finds out by himself.
    cell.live = false
    cell.drop()
    changed = true
  }
  if (!changed) return
  const { readers } = cell
  cell.readers = []
  cell.latest = 0
  for (const one of readers) drop(one)
}
