import { cached, isTracking, memoStable } from './cells'

/** What a derived value is asked by, besides the object it is derived from. */
export type Key = string | number | bigint

/** How a derived value is cached. */
export interface DerivedOptions<R extends object, T> {
  /**
   * Whether two values are equal. Given for values with many observers that few changes alter:
   * after a change the value is computed again, and only one that differs invalidates its
   * observers.
   */
  readonly same?: (before: T, now: T) => boolean
  /**
   * Which values are cached while dependencies are not tracked: `all`, unless said otherwise; the
   * `last` one, for large values that are asked for in runs; or `none`, for values that cost less
   * than their entry in a cache. While dependencies are tracked, all are.
   */
  readonly untracked?: 'all' | 'last' | 'none'
  /** The object the values are cached with, where it is not the root itself. */
  readonly on?: (root: R) => object
}

/**
 * A value derived from an object, such as a model, and some keys. Whether it is cached, tracked or
 * computed again is decided here: callers only ask for it.
 *
 * Example: `const zoneOf = derived((model: Model, subnet: number) => …, { same: Object.is })`,
 * asked as `zoneOf(model, 7)`. Values are released with the object. Costs a look-up in a map for
 * each question; with several keys, a text of them too.
 */
export function derived<R extends object, A extends readonly Key[], T>(
  compute: (root: R, ...keys: A) => T,
  { same, untracked = 'all', on }: DerivedOptions<R, T> = {},
): (root: R, ...keys: A) => T {
  const values = new WeakMap<object, Map<Key, T>>()
  const valuesOf = (owner: object): Map<Key, T> => {
    let known = values.get(owner)
    if (!known) values.set(owner, (known = new Map<Key, T>()))
    return known
  }
  return (root, ...keys) => {
    if (untracked === 'none' && !isTracking()) return compute(root, ...keys)
    const known = valuesOf(on ? on(root) : root)
    const key = keyOf(keys)
    if (untracked === 'last' && !isTracking() && !known.has(key)) known.clear()
    const make = (): T => compute(root, ...keys)
    return same ? memoStable(known, key, make, same) : cached(known, key, make)
  }
}

/** One key for several. A bigint is a text of its own, since a map hashes it by its low half. */
function keyOf(keys: readonly Key[]): Key {
  if (keys.length === 1 && typeof keys[0] !== 'bigint') return keys[0]!
  let text = ''
  for (const key of keys) text += typeof key === 'bigint' ? `${key}n ` : `${key} `
  return text
}

/** Values that outlive a model, with what else they were made of. */
export type Outliving<K extends object, T> = WeakMap<
  K,
  { readonly value: T; readonly inputs: readonly unknown[] }
>

/**
 * A value made from an object that outlives models, such as one compiled from an object of the
 * estate: a later model with the same inputs takes it over. While dependencies are tracked, the
 * value that asks caches it instead, since its reads are known more closely than its inputs.
 */
export function takenOver<K extends object, T>(
  known: Outliving<K, T>,
  key: K,
  inputs: () => readonly unknown[],
  make: () => T,
): T {
  if (isTracking()) return make()
  const now = inputs()
  const before = known.get(key)
  if (before && sameItems(before.inputs, now)) return before.value
  const value = make()
  known.set(key, { value, inputs: now })
  return value
}

/** Whether two sequences have the same members by identity, in the same order. */
export const sameItems = <T>(a: Iterable<T>, b: Iterable<T>): boolean => {
  const others = b[Symbol.iterator]()
  for (const one of a) {
    const other = others.next()
    if (other.done || other.value !== one) return false
  }
  return others.next().done === true
}
