/**
 * Exact differences between two states, without trying packets one by one. A packet of what is left
 * is walked in the state before, which gives the box of packets that take the same way there; the
 * same packet is walked in the state after within that box, which gives the box in which both ways
 * hold. No rules are asked on the way: which packets of the box the rules let pass is found as a
 * set in each state, and what differs follows from the two sets. The box is taken away, and so on
 * until nothing is left.
 *
 * Where rules cannot be said as sets, packets are walked with their rules, box by box, in the same
 * manner.
 *
 * Example: a route is added for 10.2.0.0/16. Packets of a host to 10.2.0.5 are lost before in a box
 * of the whole table's gap; after, their way is the same in a box of one host and every port, of
 * which its rules let pass TCP 443. What is told is that host and that port.
 */
import { familyOf, type Address } from '../address/address'
import {
  firstPart,
  intersectRanges,
  subtractRanges,
  type Range,
  type RangeSet,
} from '../address/ranges'
import { walkFlow, type Flow } from '../flows/flow'
import type { Model } from '../model/model'
import {
  allPackets,
  packetOf,
  subtractBox,
  type PacketBox,
  type PacketSet,
} from '../packet/packet-set'
import type { Packet } from '../packet/packet'
import type { Budget } from './budget'
import type { Pair, PairedSender, Sender } from './ends'
import { fateOf, NO_FATE, type Fate } from './fate'
import { passedParts } from './parts'
import { leadAlike } from './touched-rules'

/** Packets of one sender that share their fate before and their fate after. */
export interface PairedFlow {
  readonly sender: PairedSender
  readonly box: PacketBox
  readonly before: Fate
  readonly after: Fate
}

export interface PairedOptions {
  /** Fates also say why packets are lost: rules are asked packet by packet. */
  readonly causes?: boolean
}

/**
 * Finds the packets of a sender to some destinations that fare otherwise. `destinations` are ranges
 * in normal form; addresses beside them are never walked. Each packet that differs belongs to one
 * flow that is taken; `take` may end it by returning true. Costs two walks for each box of packets
 * that take the same ways, which are taken from the budget; returns what is left when it is used
 * up.
 */
export function eachPairedFlow(
  pair: Pair,
  sender: PairedSender,
  destinations: RangeSet,
  budget: Budget,
  take: (flow: PairedFlow) => boolean,
  { causes = false }: PairedOptions = {},
): PacketSet {
  const { before, after, both, onlyBefore, onlyAfter, members } = sender
  const left: PacketBox[] = []
  const search = { pair, sender, destinations, budget, take, causes }
  if (members) {
    // What they send to each other is asked of each alone: to one of them it is its own address.
    const among = intersectRanges(destinations, both)
    for (const member of members)
      left.push(...eachPairedFlow(pair, member, among, budget, take, { causes }))
    const beyond = subtractRanges(destinations, both)
    byFamily(both).some((sources) =>
      byWays(
        { ...search, destinations: beyond, sources, endsOf: memberOf(members) },
        boxesTo({ from: sources[0]!.from, to: sources.at(-1)!.to }, beyond),
        left,
      ),
    )
    return left
  }
  const parts = [
    [both, { before, after }],
    [onlyBefore, { before, after: null }],
    [onlyAfter, { before: null, after }],
  ] as const
  for (const [sources, ends] of parts)
    for (const src of sources)
      if (byWays({ ...search, endsOf: () => ends }, boxesTo(src, destinations), left)) return left
  return left
}

const byFamily = (set: RangeSet): readonly RangeSet[] =>
  ([4, 6] as const)
    .map((family) => set.filter(({ from }) => familyOf(from) === family))
    .filter((own) => own.length > 0)

/** The member that has an address. */
function memberOf(members: readonly PairedSender[]): Search['endsOf'] {
  const owners = new Map(members.flatMap((one) => one.both.map(({ from }) => [from, one] as const)))
  return (src) => owners.get(src)!
}

interface Search {
  readonly pair: Pair
  readonly sender: PairedSender
  /** Whoever sends from an address, in each state. */
  readonly endsOf: (src: Address) => {
    readonly before: Sender | null
    readonly after: Sender | null
  }
  /** The addresses of several that fare alike; undefined where one sends. */
  readonly sources?: RangeSet
  readonly destinations: RangeSet
  readonly budget: Budget
  readonly take: (flow: PairedFlow) => boolean
  readonly causes: boolean
}

/** Goes through boxes by the ways packets take; true once enough was taken. */
function byWays(search: Search, boxes: readonly PacketBox[], left: PacketBox[]): boolean {
  const { pair, sender, take, causes } = search
  return throughBoxes(search, boxes, left, true, (was, is, box) => {
    const parts = passedParts(pair, was, is, box)
    if (parts === null) return byPackets(search, [box], left)
    if (!causes || was === null || is === null)
      return parts.some(({ box: part, before, after }) =>
        take({ sender, box: part, before, after }),
      )
    return byPackets(
      search,
      parts.map((part) => part.box),
      left,
    )
  })
}

/** Goes through boxes with the rules asked of each packet; true once enough was taken. */
const byPackets = (search: Search, boxes: readonly PacketBox[], left: PacketBox[]): boolean =>
  throughBoxes(search, boxes, left, false, (was, is, box) =>
    search.take({
      sender: search.sender,
      box,
      before: was === null ? NO_FATE : fateOf(search.pair.before, was),
      after: is === null ? NO_FATE : fateOf(search.pair.after, is),
    }),
  )

/** Walks boxes in both states until none is left, or until `found` says that it is enough. */
function throughBoxes(
  { pair, endsOf, sources, destinations, budget }: Search,
  boxes: readonly PacketBox[],
  left: PacketBox[],
  defersRules: boolean,
  found: (was: Flow | null, is: Flow | null, box: PacketBox) => boolean,
): boolean {
  const isSameWay = defersRules && leadAlike(pair)
  const pending = [...boxes].reverse()
  for (let within = pending.pop(); within; within = pending.pop()) {
    const dst = firstPart(destinations, within.dst)
    const src = sources ? firstPart(sources, within.src) : within.src
    if (dst === null || src === null) continue
    if (!budget.take()) {
      left.push(within, ...pending)
      return false
    }
    const packet = packetOf({ ...within, src, dst })
    const ends = endsOf(packet.src)
    const about = { defersRules, isAlike: sources !== undefined }
    const was = walkIn(pair.before, ends.before, packet, within, about)
    // Where nothing but rules differs, a walk that asks none is the same in both states.
    const is =
      defersRules && isSameWay && ends.before && ends.after
        ? was
        : walkIn(pair.after, ends.after, packet, was?.box ?? within, about)
    const box = is?.box ?? was?.box ?? within
    if (found(was, is, box)) return true
    pending.push(...subtractBox(within, box).reverse())
  }
  return false
}

/** A flow in one state, with the box within another that fares alike; null without a sender. */
function walkIn(
  model: Model,
  sender: Sender | null,
  packet: Packet,
  within: PacketBox,
  { defersRules, isAlike }: { readonly defersRules: boolean; readonly isAlike: boolean },
): Flow | null {
  if (sender === null) return null
  const home =
    isAlike && sender.end.in === 'subnet'
      ? { home: model.subnets[sender.end.place.subnet]!.network }
      : {}
  return walkFlow(model, sender.end, packet, within, true, { defersRules, ...home })
}

/** Every packet from a span of sources to the span of all destinations of its family. */
function boxesTo(src: Range, destinations: RangeSet): PacketBox[] {
  const family = familyOf(src.from)
  const own = destinations.filter((range) => familyOf(range.from) === family)
  return own.length === 0
    ? []
    : [{ ...allPackets(family), src, dst: { from: own[0]!.from, to: own.at(-1)!.to } }]
}
