import { boxesMeet, subtractBox } from '../packet/packet-set'
import { boxesOf } from './boxes'
import { flatRules, mayMeet } from './long-list'
import type { SetModel, SetRule } from './rule-book'

/** Beyond this many boxes subtraction stops, and the rule counts as one that can match. */
const MOST_BOXES = 400

/**
 * The rules of a set that leave nothing for one of them to match, so that it never does; null where
 * something is left, or where that is too much to say.
 */
export function coverOf(set: SetModel, rule: SetRule): readonly SetRule[] | null {
  const flat = flatRules(set, rule.direction)
  const { rules } = flat
  const at = rules.indexOf(rule)
  const others: SetRule[] = []
  for (let place = 0; place < (set.ordered ? at : rules.length); place++) {
    if (place === at || !mayMeet(flat, at, place)) continue
    const other = rules[place]!
    // In an ordered set what stands before it; in a set of permissions any other, of two equal ones
    // the later.
    if (set.ordered || place < at || coveredBy(other, [rule]) === null) others.push(other)
  }
  const by = coveredBy(rule, others)
  return by === null || by.length === 0 ? null : by
}

/**
 * The rules that together match all that a rule matches; null where they do not, or where that is
 * too much to say.
 */
function coveredBy(rule: SetRule, others: readonly SetRule[]): SetRule[] | null {
  let rest = boxesOf(rule)
  if (rest.length === 0) return null
  const by: SetRule[] = []
  for (const other of others) {
    const before = rest
    for (const hole of boxesOf(other)) {
      if (!rest.some((box) => boxesMeet(box, hole))) continue
      rest = rest.flatMap((box) => subtractBox(box, hole))
      if (rest.length > MOST_BOXES) return null
    }
    if (rest !== before) by.push(other)
    if (rest.length === 0) return by
  }
  return null
}
