import type { RangeSet } from '../address/ranges'
import { allPackets, boxesMeet, meetBoxes, subtractBox, type PacketBox } from '../packet/packet-set'
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
  if (!boxes) known.set(rule, (boxes = findBoxes(rule)))
  return boxes
}

/** At least as many boxes as a rule has, counted without making them. */
export const mostBoxesOf = (rule: Condition): number =>
  (rule.peers()?.length ?? 2) *
  (rule.local?.length ?? 2) *
  (rule.ports?.length ?? 1) *
  (rule.sourcePorts?.length ?? 1)

function findBoxes(rule: Condition): PacketBox[] {
  const isOut = rule.direction === 'out'
  const hasPorts = rule.ports !== null || rule.sourcePorts !== null
  const protocol =
    rule.protocol !== null
      ? { from: placeOfProtocol(rule.protocol), to: placeOfProtocol(rule.protocol) }
      : hasPorts
        ? PLACES_WITH_PORTS
        : { from: 0, to: 255 }
  // A rule that names ports matches nothing of a protocol that has none.
  if (hasPorts && protocol.from > PLACES_WITH_PORTS.to) return []
  const spans = (ports: Condition['ports']): { from: number; to: number }[] =>
    (ports ?? [[0, 65535]]).map(([from, to]) => ({ from, to }))
  return EVERYTHING.flatMap((all) => {
    const of = (set: RangeSet | null): RangeSet =>
      set === null ? [all.src] : set.filter((range) => typeof range.from === typeof all.src.from)
    return of(rule.peers()).flatMap((peer) =>
      of(rule.local).flatMap((own) =>
        spans(rule.ports).flatMap((dstPort) =>
          spans(rule.sourcePorts).map((srcPort): PacketBox => ({
            dst: isOut ? peer : own,
            src: isOut ? own : peer,
            protocol,
            dstPort,
            srcPort,
          })),
        ),
      ),
    )
  })
}

/** The packets of some boxes that a rule matches; two of the boxes may share packets. */
export const matchedBy = (rule: Condition, boxes: readonly PacketBox[]): PacketBox[] =>
  meetAll(boxesOf(rule), boxes)

function meetAll(holes: readonly PacketBox[], boxes: readonly PacketBox[]): PacketBox[] {
  const out: PacketBox[] = []
  for (const box of boxes) {
    for (const hole of holes) {
      const shared = meetBoxes(box, hole)
      if (shared !== null) out.push(shared)
    }
  }
  return out
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
  /** The boxes of each rule, once it was asked for them. */
  readonly boxes: (readonly PacketBox[] | undefined)[]
}

const asked = { in: new WeakMap<SetModel, Asked>(), out: new WeakMap<SetModel, Asked>() }

function askedOf(set: SetModel, direction: Direction): Asked {
  let found = asked[direction].get(set)
  if (!found) {
    const flat = flatRules(set, direction)
    const { rules } = flat
    const denialsBefore = rules.map((rule, at) =>
      set.ordered && rule.allow
        ? rules.filter(
            (other, before) =>
              before < at && !other.allow && mayMeet(flat, before, at) && rulesMeet(rule, other),
          )
        : [],
    )
    asked[direction].set(set, (found = { rules, denialsBefore, boxes: [] }))
  }
  return found
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
  const { rules, denialsBefore, boxes: ofRules } = askedOf(set, direction)
  const out: PacketBox[] = []
  for (const [at, rule] of rules.entries()) {
    if (!rule.allow) continue
    let rest: readonly PacketBox[] = meetAll((ofRules[at] ??= findBoxes(rule)), boxes)
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
