import type { Cause } from '../walk/causes'

/** What becomes of packets that follow a winning route. */
export interface Outcome {
  /**
   * The elements they pass, in order: each way of branches of equal cost once, or twice where
   * several branches pass the same ones.
   */
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

/** Each of some ways once, as `Outcome` has them. */
export function distinctWays(ways: Outcome['ways']): Outcome['ways'] {
  if (ways.length < 2) return ways
  const distinct = [...new Map(ways.map((way) => [way.join(), way])).values()]
  return distinct.length > 1 ? distinct : [distinct[0]!, distinct[0]!]
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

/** The objects that stand for outcomes, by where these are cached. */
const interned = new WeakMap<Map<string, Outcome>, WeakMap<Outcome, Outcome>>()

/** One object for each outcome. */
export function intern(
  memo: { readonly outcomes: Map<string, Outcome> },
  outcome: Outcome,
): Outcome {
  let known = interned.get(memo.outcomes)
  if (!known) interned.set(memo.outcomes, (known = new WeakMap()))
  let one = known.get(outcome)
  if (!one) known.set(outcome, (one = byContent(memo, outcome)))
  return one
}

function byContent(memo: { readonly outcomes: Map<string, Outcome> }, outcome: Outcome): Outcome {
  const { ways, leavesBy, seenAs, cause, reaches } = outcome
  const key = `${ways.join(';')}|${leavesBy}|${seenAs.join()}|${cause === null ? '' : `${cause.code} ${cause.object} ${cause.inner?.code ?? ''} ${cause.inner?.object ?? ''}`}|${reaches}`
  const known = memo.outcomes.get(key)
  if (known) return known
  memo.outcomes.set(key, outcome)
  return outcome
}
