/**
 * Exact differences between two states, packet by packet, without trying packets one by one: a
 * packet of what is left is walked in the state before, which gives the box of packets that fare
 * alike there; the same packet is walked in the state after within that box, which gives the box in
 * which both fates hold. What they differ in is told for that box, it is taken away, and so on
 * until nothing is left.
 *
 * Example: a route is added for 10.2.0.0/16. Packets of a host to 10.2.0.5, port 443, may be lost
 * before in a box of the whole table's gap, and work after in a box of one host and one port; the
 * second box is what is told.
 */
import { familyOf } from '../address/address'
import { firstPart, type Range, type RangeSet } from '../address/ranges'
import { walkFlow } from '../flows/flow'
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

/** Packets of one sender that share their fate before and their fate after. */
export interface PairedFlow {
  readonly sender: PairedSender
  readonly packet: Packet
  readonly box: PacketBox
  readonly before: Fate
  readonly after: Fate
}

/**
 * Walks every packet of a sender to some destinations in both states. `destinations` are ranges in
 * normal form; addresses beside them are never walked. Each packet belongs to one flow that is
 * taken. Costs two walks for each flow, which are taken from the budget; returns what is left when
 * it is used up.
 */
export function eachPairedFlow(
  pair: Pair,
  sender: PairedSender,
  destinations: RangeSet,
  budget: Budget,
  take: (flow: PairedFlow) => boolean,
): PacketSet {
  const { before, after, both, onlyBefore, onlyAfter } = sender
  const parts = [
    [both, before, after],
    [onlyBefore, before, null],
    [onlyAfter, null, after],
  ] as const
  const left: PacketBox[] = []
  for (const [sources, was, is] of parts) {
    for (const src of sources) {
      const pending = boxesTo(src, destinations)
      for (let within = pending.pop(); within; within = pending.pop()) {
        const dst = firstPart(destinations, within.dst)
        if (dst === null) continue
        if (!budget.take()) {
          left.push(within, ...pending)
          break
        }
        const packet = packetOf({ ...within, dst })
        const [first, box] = walkIn(pair.before, was, packet, within)
        const [second, common] = walkIn(pair.after, is, packet, box)
        if (take({ sender, packet, box: common, before: first, after: second })) return left
        pending.push(...subtractBox(within, common).reverse())
      }
    }
  }
  return left
}

/** The fate of a packet in one state, and the box of packets within another that share it. */
function walkIn(
  model: Model,
  sender: Sender | null,
  packet: Packet,
  within: PacketBox,
): readonly [Fate, PacketBox] {
  if (sender === null) return [NO_FATE, within]
  const flow = walkFlow(model, sender.end, packet, within, true)
  return [fateOf(model, flow), flow.box]
}

/** Every packet from a span of sources to the span of all destinations of its family. */
function boxesTo(src: Range, destinations: RangeSet): PacketBox[] {
  const family = familyOf(src.from)
  const own = destinations.filter((range) => familyOf(range.from) === family)
  return own.length === 0
    ? []
    : [{ ...allPackets(family), src, dst: { from: own[0]!.from, to: own.at(-1)!.to } }]
}
