import { memoStable, cached } from '../incremental/cells'
import type { RangeSet } from '../address/ranges'
import type { Model } from './model'

const values = new WeakMap<Model, Map<string, unknown>>()

const of = (model: Model): Map<string, unknown> => {
  let known = values.get(model)
  if (!known) values.set(model, (known = new Map()))
  return known
}

/** A value derived from a model, cached with the model under a name. */
export const derived = <T>(model: Model, name: string, make: () => T): T =>
  cached(of(model), name, make) as T

/**
 * The same, for values with many observers that few changes alter: they are compared after a
 * change.
 */
export const derivedAndCompared = <T>(
  model: Model,
  name: string,
  make: () => T,
  same: (a: T, b: T) => boolean,
): T => memoStable(of(model), name, make, same as (a: unknown, b: unknown) => boolean) as T

/** Whether two sets of ranges are equal. */
export const sameRanges = (a: RangeSet, b: RangeSet): boolean =>
  a === b ||
  (a.length === b.length && a.every((one, at) => one.from === b[at]!.from && one.to === b[at]!.to))

/** Whether two sequences have the same members by identity, in the same order. */
export const sameItems = <T>(a: Iterable<T>, b: Iterable<T>): boolean => {
  const others = b[Symbol.iterator]()
  for (const one of a) {
    const other = others.next()
    if (other.done || other.value !== one) return false
  }
  return others.next().done === true
}
