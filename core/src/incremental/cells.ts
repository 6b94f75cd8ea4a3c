/**
 * Cached values that are computed again only where a change of the estate touches what they read.
 *
 * Outside of `track` a cached value is an entry of a map, and costs nothing more. Inside, every
 * cached value is a cell that knows its observers. Reads of the model (`tracked-model.ts`) and of
 * other cells are noted while a value is computed, so no dependency is declared by hand. A change
 * invalidates the cells that read what changed, then their observers; a value that is asked for
 * again is computed again.
 *
 * Example: the next hops of a subnet read its route table. A changed route invalidates them and
 * what was computed from them, and no other subnet's. (Demand-driven incremental computation with
 * dynamic dependencies: Acar, "Self-Adjusting Computation", 2005; Hammer et al., "Adapton", PLDI
 * 2014.)
 */
export interface Cell {
  readonly number: number
  /** The cells that read it, each at least once. */
  observers: Cell[]
  /** The number of the observer noted last: most observers read a cell several times in a row. */
  latest: number
  live: boolean
  /**
   * Whether something it read has changed; only for values that are compared before their observers
   * are invalidated.
   */
  stale: boolean
  readonly drop: () => void
  /**
   * Computes the value again and tells whether it differs; null for a value that is dropped at
   * once.
   */
  readonly again: (() => boolean) | null
}

let current: Cell | null = null
let numbers = 0

const cellOf = (drop: () => void, again: (() => boolean) | null): Cell => ({
  number: ++numbers,
  observers: [],
  latest: 0,
  live: true,
  stale: false,
  drop,
  again,
})

/** Whether dependencies are tracked; for the modules beside this one only. */
export const isTracking = (): boolean => current !== null

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
  cell.observers = withObserver(cell.observers, current)
}

/**
 * A list of observers with one more. At sizes that are powers of two, dead and repeated ones are
 * removed.
 */
function withObserver(observers: Cell[], one: Cell): Cell[] {
  observers.push(one)
  return observers.length >= 64 && (observers.length & (observers.length - 1)) === 0
    ? [...new Set(observers)].filter((each) => each.live)
    : observers
}

/** The cells that read something that is not a cell itself, such as a part of a model. */
export interface Observers {
  cells: Cell[]
  /** The number of the observer noted last: most observers read a part several times in a row. */
  latest: number
}

/** An empty list of observers. */
export const noObservers = (): Observers => ({ cells: [], latest: 0 })

/** Notes the value being computed, if any, among the observers of what it reads. */
export function observe(observers: Observers): void {
  if (current === null || observers.latest === current.number) return
  observers.latest = current.number
  observers.cells = withObserver(observers.cells, current)
}

/** Takes all observers out, to be invalidated. */
export function takeObservers(observers: Observers): readonly Cell[] {
  const { cells } = observers
  observers.cells = []
  observers.latest = 0
  return cells
}

/** Computes a value with its reads noted as dependencies. */
export const track = <T>(make: () => T): T => run(cellOf(nothing, null), make)
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

/** The value of a key in a map, computed when it is first asked for. Costs a look-up in the map. */
export function cached<K, T>(map: Keeps<K, T>, key: K, make: () => T): T {
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
 * As `cached`, for values with many observers that few changes alter. After a change of what it
 * read, the value is computed again and compared; only a value that differs invalidates its
 * observers.
 */
export function memoStable<K, T>(
  map: Map<K, T>,
  key: K,
  make: () => T,
  same: (before: T, now: T) => boolean,
): T {
  if (current === null) return cached(map, key, make)
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

/**
 * Computes an addition to a cached value; what the addition reads becomes a dependency of the
 * value.
 */
export function extend<T>(map: object, key: unknown, make: () => T): T {
  const cell = current === null ? undefined : cells.get(map)?.get(key)
  return cell ? run(cell, make) : make()
}

/** A value computed at its first use; its reads are dependencies of the cell that created it. */
export function lazy<T>(make: () => T): () => T {
  let made: { readonly value: T } | undefined
  const owner = current
  return () => (made ??= { value: owner ? run(owner, make) : make() }).value
}

const waiting: Cell[] = []

/** Invalidates cells that read something that has changed, and their observers. */
export function invalidate(changed: Iterable<Cell>): void {
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
    const { observers } = cell
    cell.observers = []
    for (const one of observers) pending.push(one)
  }
}

/** Computes a stale value again; a value that differs invalidates its observers. */
function renew(cell: Cell): void {
  cell.stale = false
  let changed: boolean
  try {
    changed = cell.again!()
  } catch {
    // What the value is about no longer exists; an observer that still asks for it finds that out.
    cell.live = false
    cell.drop()
    changed = true
  }
  if (!changed) return
  const { observers } = cell
  cell.observers = []
  cell.latest = 0
  for (const one of observers) drop(one)
}
