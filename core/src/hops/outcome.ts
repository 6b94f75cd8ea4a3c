import type { Cause } from '../walk/causes'

/** What becomes of packets that follow a winning route. */
export interface Outcome {
  /** The elements they pass, in order; one list for each branch of equal cost. */
  readonly ways: readonly (readonly string[])[]
  readonly leavesBy: string | null
  readonly seenAs: readonly string[]
  readonly cause: Pick<Cause, 'code' | 'object' | 'inner'> | null
  /**
   * Where they left the networks for: `internet`, a site or a service; null where a network has
   * them, or they are lost.
   */
  readonly reaches: string | null
}

const numbers = new WeakMap<object, number>()
let latest = 0

/** A number that stands for an object's identity. */
export function identity(object: object): number {
  const known = numbers.get(object)
  if (known !== undefined) return known
  numbers.set(object, ++latest)
  return latest
}

/** One object for each outcome. */
export function intern(
  memo: { readonly outcomes: Map<string, Outcome> },
  outcome: Outcome,
): Outcome {
  const { ways, leavesBy, seenAs, cause, reaches } = outcome
  const key = `${ways.join(';')}|${leavesBy}|${seenAs.join()}|${cause === null ? '' : `${cause.code} ${cause.object} ${cause.inner?.code ?? ''} ${cause.inner?.object ?? ''}`}|${reaches}`
  const known = memo.outcomes.get(key)
  if (known) return known
  memo.outcomes.set(key, outcome)
  return outcome
}
