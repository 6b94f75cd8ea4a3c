import { partsWithin, type Range, type RangeSet } from '../address/ranges'
import { allPackets, boxesMeet, subtractBox, type PacketBox } from '../packet/packet-set'
import { placeOfProtocol, PLACES_WITH_PORTS } from '../packet/protocols'
import { flatRules, mayMeet } from './long-list'
import type { SetModel, SetRule } from './rule-book'
import type { Condition, Direction } from './condition'

const EVERYTHING = [allPackets(4), allPackets(6)] as const

const known = new WeakMap<Condition, readonly PacketBox[]>()

/**
 * Every packet a rule matches: the near side is the source of what goes out, the destination of
 * what comes in.
 */
export function boxesOf(rule: Condition): readonly PacketBox[] {
  let boxes = known.get(rule)
  if (!boxes) known.set(rule, (boxes = matchedBy(rule, EVERYTHING)))
  return boxes
}

/** At least as many boxes as a rule has, counted without making them. */
export const mostBoxesOf = (rule: Condition): number =>
  (rule.peers()?.length ?? 2) *
  (rule.local?.length ?? 2) *
  (rule.ports?.length ?? 1) *
  (rule.sourcePorts?.length ?? 1)

/** The places of the protocols that a rule matches; null where it matches nothing. */
function protocolsOf({ protocol, ports, sourcePorts }: Condition): PacketBox['protocol'] | null {
  const hasPorts = ports !== null || sourcePorts !== null
  if (protocol === null) return hasPorts ? PLACES_WITH_PORTS : EVERY_PROTOCOL
  const place = placeOfProtocol(protocol)
  // A rule that names ports matches nothing of a protocol that has none.
  return hasPorts && place > PLACES_WITH_PORTS.to ? null : { from: place, to: place }
}

const EVERY_PROTOCOL = { from: 0, to: 255 }

/**
 * The packets of some boxes that a rule matches; two of the boxes may share packets. Only the parts
 * of the rule that meet a box are looked at: most rules differ in the port, and of long lists of
 * peers few are near.
 */
export function matchedBy(rule: Condition, boxes: readonly PacketBox[]): PacketBox[] {
  const protocols = protocolsOf(rule)
  const out: PacketBox[] = []
  if (protocols === null) return out
  const isOut = rule.direction === 'out'
  for (const box of boxes) {
    const protocol = common(protocols, box.protocol)
    if (protocol === null) continue
    const dstPorts = cutPorts(rule.ports, box.dstPort)
    if (dstPorts.length === 0) continue
    const srcPorts = cutPorts(rule.sourcePorts, box.srcPort)
    if (srcPorts.length === 0) continue
    const near = cutRanges(rule.local, isOut ? box.src : box.dst)
    if (near.length === 0) continue
    for (const peer of cutRanges(rule.peers(), isOut ? box.dst : box.src))
      for (const own of near)
        for (const dstPort of dstPorts)
          for (const srcPort of srcPorts)
            out.push({
              dst: isOut ? peer : own,
              src: isOut ? own : peer,
              protocol,
              dstPort,
              srcPort,
            })
  }
  return out
}

const cutRanges = (set: RangeSet | null, span: Range): readonly Range[] =>
  set === null ? [span] : partsWithin(set, span)

function cutPorts(ports: Condition['ports'], span: Range): readonly Range[] {
  if (ports === null) return [span]
  const [only, other] = ports
  if (only && !other) {
    const shared = common({ from: only[0], to: only[1] }, span)
    return shared === null ? [] : [shared]
  }
  return ports.flatMap(([from, to]) => common({ from, to }, span) ?? [])
}

/** What two spans of numbers have in common. */
function common(one: Range, other: Range): Range | null {
  const from = one.from > other.from ? one.from : other.from
  const to = one.to < other.to ? one.to : other.to
  return from > to ? null : { from, to }
}

/** The packets of some boxes that a rule does not match. */
export const unmatchedBy = (rule: Condition, boxes: readonly PacketBox[]): readonly PacketBox[] =>
  boxesOf(rule).reduce<readonly PacketBox[]>(
    (rest, hole) =>
      rest.some((box) => boxesMeet(box, hole))
        ? rest.flatMap((box) => subtractBox(box, hole))
        : rest,
    boxes,
  )

/** The rules of one direction of a set, in the order in which they are asked. */
interface Asked {
  readonly rules: readonly SetRule[]
  /** For each rule that allows, the earlier denials that share packets with it. */
  readonly denialsBefore: readonly (readonly SetRule[])[]
}

const asked = { in: new WeakMap<SetModel, Asked>(), out: new WeakMap<SetModel, Asked>() }

function askedOf(set: SetModel, direction: Direction): Asked {
  let found = asked[direction].get(set)
  if (!found) {
    const rules = set.rules.filter((rule) => rule.direction === direction)
    const denialsBefore = set.ordered ? denialsOf(set, direction) : rules.map(() => NO_RULES)
    asked[direction].set(set, (found = { rules, denialsBefore }))
  }
  return found
}

const NO_RULES: readonly SetRule[] = []

function denialsOf(set: SetModel, direction: Direction): Asked['denialsBefore'] {
  const flat = flatRules(set, direction)
  return flat.rules.map((rule, at) =>
    rule.allow
      ? flat.rules.filter(
          (other, before) =>
            before < at && !other.allow && mayMeet(flat, before, at) && rulesMeet(rule, other),
        )
      : NO_RULES,
  )
}

/** Rules of more boxes than this are taken to meet all others. */
const MOST_COMPARED = 16

const rulesMeet = (a: Condition, b: Condition): boolean =>
  mostBoxesOf(a) > MOST_COMPARED ||
  mostBoxesOf(b) > MOST_COMPARED ||
  boxesOf(a).some((one) => boxesOf(b).some((other) => boxesMeet(one, other)))

/**
 * The packets of some boxes that a rule set lets pass when they begin a flow; two of the boxes may
 * share packets. Costs, for each rule that allows some of the packets, a subtraction of each
 * earlier denial that meets the rule: most rules of a long list meet few others.
 */
export function passedBySet(
  set: SetModel,
  direction: Direction,
  boxes: readonly PacketBox[],
): readonly PacketBox[] {
  const { rules, denialsBefore } = askedOf(set, direction)
  const out: PacketBox[] = []
  for (const [at, rule] of rules.entries()) {
    if (!rule.allow) continue
    let rest: readonly PacketBox[] = matchedBy(rule, boxes)
    for (const denial of denialsBefore[at]!) {
      if (rest.length === 0) break
      rest = unmatchedBy(denial, rest)
    }
    for (const box of rest) out.push(box)
  }
  if (!set.otherwise[direction]) return out
  // In a set of permissions a denial has no say.
  const rest = rules.filter((rule) => rule.allow || set.ordered)
  return [...out, ...rest.reduce((left, rule) => unmatchedBy(rule, left), boxes)]
}
