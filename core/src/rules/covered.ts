import { boxesMeet, subtractBox } from '../packet/packet-set'
import { boxesOf } from './boxes'
import type { PortSpan } from './condition'
import type { SetModel, SetRule } from './rule-book'

/** Beyond this many boxes subtraction stops, and the rule counts as one that can match. */
const MOST_BOXES = 400

/**
 * The rules of a set that leave nothing for one of them to match, so that it never does; null where
 * something is left, or where that is too much to say.
 */
export function coverOf(set: SetModel, rule: SetRule): readonly SetRule[] | null {
  const rules = set.rules.filter((one) => one.direction === rule.direction)
  const at = rules.indexOf(rule)
  // In an ordered set what stands before it; in a set of permissions any other, of two equal ones
  // the later.
  const others = set.ordered
    ? rules.slice(0, at)
    : rules.filter((other, place) => other !== rule && (place < at || !covers(rule, other)))
  const by = coveredBy(rule, others)
  return by === null || by.length === 0 ? null : by
}

const covers = (outer: SetRule, inner: SetRule): boolean => coveredBy(inner, [outer])?.length === 1

/**
 * The rules that together match all that a rule matches; null where they do not, or where that is
 * too much to say.
 */
function coveredBy(rule: SetRule, others: readonly SetRule[]): SetRule[] | null {
  let rest = boxesOf(rule)
  if (rest.length === 0) return null
  const by: SetRule[] = []
  for (const other of others) {
    if (!mayCover(rule, other)) continue
    const before = rest
    for (const hole of boxesOf(other)) {
      if (!rest.some((box) => boxesMeet(box, hole))) continue
      rest = rest.flatMap((box) => subtractBox(box, hole))
      if (rest.length > MOST_BOXES) return null
    }
    if (rest.length !== before.length || rest.some((box, at) => box !== before[at])) by.push(other)
    if (rest.length === 0) return by
  }
  return null
}

/** Whether two rules can have a packet in common, judged by direction, protocol and ports alone. */
const mayCover = (rule: SetRule, other: SetRule): boolean =>
  (rule.protocol === null || other.protocol === null || rule.protocol === other.protocol) &&
  (rule.ports === null || other.ports === null || portsMeet(rule.ports, other.ports))

function portsMeet(a: readonly PortSpan[], b: readonly PortSpan[]): boolean {
  for (const [low, high] of a)
    for (const [from, to] of b) if (low <= to && from <= high) return true
  return false
}
