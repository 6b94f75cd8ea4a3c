/**
 * Which packets a changed rule set decides otherwise at a host, where nothing but rules differs.
 * What the rules of a host let pass is a set in each state; what is in one and not in the other
 * tells whom the host may ask, and who may ask it, with another fate. All others fare as before.
 *
 * Example: the rule that lets a host send anywhere is taken out. Everything it sends is reached;
 * what others ask of it is not, since its rules keep state and let their answers pass.
 */
import { rangeSet, type Range, type RangeSet } from '../address/ranges'
import type { Model } from '../model/model'
import { allPackets, disjoint, subtractSets, type PacketSet } from '../packet/packet-set'
import { hasFinal, passing, sizeOfPassing, type PassingAt } from '../rules/passing'
import type { Pair } from './ends'

/** Who is reached by what differs in the rules of a host. */
export interface RuleReach {
  /** Destinations of what the host asks. */
  readonly asks: RangeSet
  /** Sources of what it is asked, as they come to it. */
  readonly askedBy: RangeSet
}

/** More boxes than these are not taken from each other. */
const MOST_BOXES = 200

/**
 * The reach of what differs in the rules of a host, by its number in both models; null where it
 * cannot be said: rules stand for too many boxes, or an estate rule has the final word. `sets` are
 * the rule sets asked there. Costs eight questions of rules as sets.
 */
export function ruleReach(pair: Pair, index: number, sets: readonly number[]): RuleReach | null {
  const asks: Range[] = []
  const askedBy: Range[] = []
  for (const direction of ['in', 'out'] as const)
    for (const answers of [false, true]) {
      const differs = decidedOtherwise(pair, index, sets, { direction, answers })
      if (differs === null) return null
      const isAsking = (direction === 'out') !== answers
      const far = differs.map((box) => (direction === 'out' ? box.dst : box.src))
      ;(isAsking ? asks : askedBy).push(...far)
    }
  return { asks: rangeSet(asks), askedBy: rangeSet(askedBy) }
}

/** The packets that one state's rules let pass at a host, and the other's do not. */
function decidedOtherwise(
  pair: Pair,
  index: number,
  sets: readonly number[],
  { direction, answers }: Required<Pick<PassingAt, 'direction' | 'answers'>>,
): PacketSet | null {
  const passed: PacketSet[] = []
  for (const model of [pair.before, pair.after]) {
    const place = { subnet: model.interfaces[index]!.subnet, interface: index }
    if (hasFinal(model, 'in', place) || hasFinal(model, 'out', place)) return null
    const { boxes } = sizeOfPassing(model, direction, sets)
    if (boxes > MOST_BOXES) return null
    // The boundary is the same in both states, and lets pass no more than these.
    const at = { direction, place, crosses: false, answers }
    passed.push(disjoint(passing(model, at, [allPackets(4), allPackets(6)])))
  }
  const [before, after] = passed
  return [...subtractSets(before!, after!), ...subtractSets(after!, before!)]
}

/** The rule sets that are asked at a host, but for its subnet's boundary. */
export function setsAtHost(model: Model, index: number): readonly number[] {
  const { ruleSets, localRules, subnet } = model.interfaces[index]!
  const own = [...ruleSets, ...(model.subnets[subnet]?.ruleSets ?? [])]
  return localRules < 0 ? own : [...own, localRules]
}
