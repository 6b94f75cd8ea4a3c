/**
 * Long lists of rules, asked for one packet without saying why each rule does not match.
 *
 * Of hundreds of rules nearly all differ from the packet in its port. Protocol and port of every
 * rule lie in flat arrays of numbers, so that these rules cost two comparisons each; the span of
 * ports for which the same rules fall out is kept as two numbers, and noted once at the end.
 */
import type { Packet } from '../packet/packet'
import { placeOfProtocol, PLACES_WITH_PORTS } from '../packet/protocols'
import { type Condition, type Direction, mismatch, type NoteField } from './condition'
import type { SetModel, SetRule } from './rule-book'

/** Lists of fewer rules are asked rule by rule. */
const SHORT = 16

const ANY = -1
/** A rule whose ports are not one span. */
const OTHER = -2

/** The rules of one direction of a set, with protocols and ports as numbers. */
export interface FlatRules {
  readonly rules: readonly SetRule[]
  readonly protocols: Int16Array
  readonly lows: Int32Array
  readonly highs: Int32Array
}

const known = {
  in: new WeakMap<SetModel, FlatRules>(),
  out: new WeakMap<SetModel, FlatRules>(),
}

/** The rules of a direction as flat arrays. Made once for a set. */
export function flatRules(set: SetModel, direction: Direction): FlatRules {
  let flat = known[direction].get(set)
  if (flat === undefined) known[direction].set(set, (flat = flatten(set, direction)))
  return flat
}

function flatten(set: SetModel, direction: Direction): FlatRules {
  const rules = set.rules.filter((rule) => rule.direction === direction)
  const span = ({ ports }: Condition, end: 0 | 1): number =>
    ports === null ? ANY : ports.length === 1 ? ports[0]![end] : OTHER
  return {
    rules,
    protocols: Int16Array.from(rules, (rule) => rule.protocol ?? ANY),
    lows: Int32Array.from(rules, (rule) => span(rule, 0)),
    highs: Int32Array.from(rules, (rule) => span(rule, 1)),
  }
}

/**
 * Whether two rules, by their places, can have a packet in common, judged by protocol and ports
 * where these are one span.
 */
export function mayMeet({ protocols, lows, highs }: FlatRules, a: number, b: number): boolean {
  const [one, other] = [protocols[a]!, protocols[b]!]
  if (one !== ANY && other !== ANY && one !== other) return false
  if (lows[a]! < 0 || lows[b]! < 0) return true
  return lows[a]! <= highs[b]! && lows[b]! <= highs[a]!
}

/**
 * The rule of a long list that decides on a packet; null where none matches, undefined where the
 * list is short or the packet has no ports. Notes what it asks as `mismatch` does, so that the
 * packets around this one with the same answer are the same. Costs a few comparisons a rule.
 */
export function decidingRule(
  set: SetModel,
  direction: Direction,
  packet: Packet,
  note: NoteField | undefined,
): SetRule | null | undefined {
  const port = packet.dstPort
  if (port === null || set.rules.length < SHORT) return undefined
  const { rules, protocols, lows, highs } = flatRules(set, direction)
  const { protocol } = packet
  let [low, high] = [0, 65535]
  let [asksProtocol, asksPort] = [false, false]
  let decided: SetRule | null = null
  for (let at = 0; at < rules.length && decided === null; at++) {
    const rule = rules[at]!
    if (lows[at]! >= 0 && (protocols[at] === ANY || protocols[at] === protocol)) {
      asksPort = true
      asksProtocol ||= protocols[at] !== ANY
      if (port < lows[at]!) {
        high = Math.min(high, lows[at]! - 1)
        continue
      }
      if (port > highs[at]!) {
        low = Math.max(low, highs[at]! + 1)
        continue
      }
    }
    const matches = mismatch(rule, packet, note) === null
    if (matches && (set.ordered || rule.allow)) decided = rule
  }
  if (note !== undefined) {
    const own = placeOfProtocol(protocol)
    if (asksProtocol) note('protocol', { from: own, to: own })
    if (asksPort) {
      note('protocol', PLACES_WITH_PORTS)
      note('dstPort', { from: low, to: high })
    }
  }
  return decided
}
