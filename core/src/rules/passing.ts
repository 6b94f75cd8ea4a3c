import type { Model } from '../model/model'
import { boxHolds, type PacketBox } from '../packet/packet-set'
import { matchedBy, mostBoxesOf, passedBySet, unmatchedBy } from './boxes'
import { ruleBook, type EstateRuleModel } from './rule-book'
import type { Place } from './place'
import type { Direction } from './condition'

/** The place and direction that are asked, as in `ask.ts`. */
export interface PassingAt {
  readonly direction: Direction
  readonly place: Place
  /** The packets cross the subnet's edge, so its boundary is asked. */
  readonly crosses: boolean
  /**
   * The packets answer flows that were let pass here, none of them finally by an estate rule: what
   * keeps state lets them pass, and estate rules are not asked.
   */
  readonly answers?: boolean
}

/**
 * The packets of some boxes that every level of rules on one side lets pass: the same as asking
 * them one by one (`askRules`), but from the rules as sets. Exact; two of the boxes may share
 * packets.
 */
export function passing(
  model: Model,
  { direction, place, crosses, answers = false }: PassingAt,
  boxes: readonly PacketBox[],
): readonly PacketBox[] {
  const subnet = model.subnets[place.subnet]
  if (!subnet) return boxes
  const book = ruleBook(model)
  const one = place.interface >= 0 ? model.interfaces[place.interface]! : null
  const interfaceSets =
    place.frontend === undefined ? (one?.ruleSets ?? []) : model.frontends[place.frontend]!.ruleSets
  /** A level lets pass what one of its sets does. */
  const level = (sets: readonly number[], of: readonly PacketBox[]): readonly PacketBox[] =>
    answers && sets.some((index) => book.set(index).stateful)
      ? of
      : sets.length === 1
        ? passedBySet(book.set(sets[0]!), direction, of)
        : sets.flatMap((index) => passedBySet(book.set(index), direction, of))
  const local = (of: readonly PacketBox[]): readonly PacketBox[] =>
    one && one.localRules >= 0 ? level([one.localRules], of) : of
  const host = (of: readonly PacketBox[]): readonly PacketBox[] => {
    const asked = [interfaceSets, subnet.ruleSets].filter((sets) => sets.length > 0)
    if (asked.length === 0) return of
    if (model.networks[subnet.network]?.levels === 'any')
      return asked.flatMap((sets) => level(sets, of))
    return asked.reduce((rest, sets) => level(sets, rest), of)
  }
  const boundary = (of: readonly PacketBox[]): readonly PacketBox[] =>
    crosses && subnet.boundary >= 0 ? level([subnet.boundary], of) : of
  const own = direction === 'out' ? local(boxes) : boxes
  if (answers) {
    const passed = boundary(host(own))
    return apart(direction === 'in' ? local(passed) : passed)
  }
  // The lower levels pass few packets, so they are intersected first; packets finally allowed by
  // estate rules skip them.
  const estate = estateRulesAt(model, direction, place)
  const final = estate.some(isFinal) ? estateSays(estate, own).final : []
  const rest = estateSays(estate, boundary(host(own))).deferred
  const passed = final.length === 0 ? rest : [...final, ...rest]
  return apart(direction === 'in' ? local(passed) : passed)
}

/** The packets of some boxes that the boundary of a subnet lets pass. */
export function passingEdge(
  model: Model,
  subnet: number,
  { direction, answers }: Pick<PassingAt, 'direction' | 'answers'>,
  boxes: readonly PacketBox[],
): readonly PacketBox[] {
  const boundary = model.subnets[subnet]?.boundary ?? -1
  if (boundary < 0) return boxes
  const set = ruleBook(model).set(boundary)
  return answers && set.stateful ? boxes : apart(passedBySet(set, direction, boxes))
}

/**
 * How many boxes there may be in what some rule sets let pass in a direction, and how many are taken
 * out to find them. Counted without making a box: one rule may stand for millions.
 */
export function sizeOfPassing(
  model: Model,
  direction: Direction,
  sets: readonly number[],
): { readonly boxes: number; readonly holes: number } {
  const book = ruleBook(model)
  const asked = sets.flatMap((index) => {
    const { rules, ordered, otherwise } = book.set(index)
    return rules
      .filter((rule) => rule.direction === direction)
      .map((rule) => ({ rule, isHole: rule.allow ? otherwise[direction] : ordered }))
  })
  const estate = book
    .estateRules()
    .filter((rule) => rule.direction === direction)
    .map((rule) => ({ rule, isHole: true }))
  const all = [...asked, ...estate].map(({ rule, isHole }) => ({
    count: mostBoxesOf(rule),
    isHole,
  }))
  const sum = (some: typeof all): number => some.reduce((total, { count }) => total + count, 0)
  return { boxes: sum(all), holes: sum(all.filter(({ isHole }) => isHole)) }
}

/** Whether an estate rule may finally allow packets at a place, past all other levels. */
export const hasFinal = (model: Model, direction: Direction, place: Place): boolean =>
  estateRulesAt(model, direction, place).some(isFinal)

const isFinal = ({ action }: EstateRuleModel): boolean => action === 'allow'

const estateRulesAt = (model: Model, direction: Direction, place: Place): EstateRuleModel[] =>
  ruleBook(model)
    .estateRules()
    .filter((rule) => rule.direction === direction && rule.appliesTo(place))

/** The packets that estate rules finally allow, and those they leave to the lower levels. */
function estateSays(
  rules: readonly EstateRuleModel[],
  boxes: readonly PacketBox[],
): { final: PacketBox[]; deferred: readonly PacketBox[] } {
  const final: PacketBox[] = []
  const handed: PacketBox[] = []
  let rest = boxes
  for (const rule of rules) {
    if (rest.length === 0) break
    if (rule.action !== 'deny')
      (rule.action === 'allow' ? final : handed).push(...matchedBy(rule, rest))
    rest = unmatchedBy(rule, rest)
  }
  return { final, deferred: handed.length === 0 ? rest : [...handed, ...rest] }
}

/**
 * Beyond this many boxes none are merged: finding boxes inside others would cost more than it
 * saves.
 */
const MOST_COMPARED = 60

/** The boxes that lie in no other one. */
function apart(boxes: readonly PacketBox[]): readonly PacketBox[] {
  if (boxes.length < 2 || boxes.length > MOST_COMPARED) return boxes
  const out: PacketBox[] = []
  for (const box of boxes) {
    if (out.some((other) => boxHolds(other, box))) continue
    for (let at = out.length - 1; at >= 0; at--) if (boxHolds(box, out[at]!)) out.splice(at, 1)
    out.push(box)
  }
  return out
}
