import { familyOf, formatAddress, type Address, type Family } from '../address/address'
import { partsWithin, type RangeSet } from '../address/ranges'
import { eachFlow, walkPacket, type FlowBranch } from '../flows/flow'
import { askedFrom, rangeNameOf } from '../hops/kinds'
import type { HopTable } from '../hops/hops'
import type { Model, SubnetModel } from '../model/model'
import { DEFAULT_SOURCE_PORT, protocolName, TCP, type Packet } from '../packet/packet'
import { allPackets, boxWith, type PacketBox } from '../packet/packet-set'
import { passing } from '../rules/passing'
import type { Question } from '../trace/question'
import type { Cause } from '../walk/causes'
import { lowestInternetAddress } from '../walk/public-address'
import type { End } from '../walk/state'
import { askedIn, firstOf, fromText, internetText, type CheckContext } from './survey'

/** Whether a branch of a flow shows what a finding says. */
export type Shows = (branch: FlowBranch) => boolean

/** Whether rules stopped a packet, and no route lost it. */
export const isDenied = (cause: Cause | null): boolean => cause?.code.startsWith('denied-') === true

/** How many kinds of hosts, and how many hosts of each kind, are looked at for one finding. */
export const MOST_HOSTS = 8
/** How many walks are made for one kind of hosts. */
const MOST_FLOWS = 400
/** How many boxes of packets, each within one range, are made for one host. */
const MOST_BOXES = 4000

/** A kind of host, or some of its hosts by their numbers. */
interface Asked {
  readonly subnet: SubnetModel
  readonly table: HopTable
  readonly hosts?: readonly number[]
}

/** A host of a kind, as an end of flows and as a question names it. */
interface Sender {
  readonly end: End & { readonly in: 'subnet' }
  readonly address: Address
  readonly asked: string
}

/**
 * A question whose packet a host of a kind may send, by its own rules, to some destinations of one
 * family, and that shows what is said of them; null where no packet does. What people ask for most
 * is tried first. Where there are more packets than are looked at, the first question stands.
 * Costs one walk in nearly all cases, and at most `MOST_FLOWS`.
 */
export const questionShowing = (
  survey: CheckContext,
  asked: Asked,
  ranges: RangeSet,
  shows: Shows,
): Question | null => packetShowing(survey, asked, ranges, shows)?.question ?? null

/** A kind of host with destinations that it sends to. */
interface Asking extends Asked {
  readonly ranges: RangeSet
}

/**
 * The same for the first of some kinds of hosts of which a packet shows it; null where no packet of
 * any of them does. Where there are more kinds than are looked at, the question of the first stands.
 */
export function firstShowing(
  survey: CheckContext,
  kinds: readonly Asking[],
  shows: Shows,
): Question | null {
  const found = firstOf(kinds.slice(0, MOST_HOSTS), (one) =>
    questionShowing(survey, one, one.ranges, shows),
  )
  if (found || kinds.length <= MOST_HOSTS) return found
  const { subnet, table, ranges } = kinds[0]!
  const dst = askedIn(survey, ranges)
  const usual = { ...USUAL, src: table.kind.sources[familyOf(dst)]!, dst }
  return askedFor(survey.model, fromText(survey.model, subnet, table), usual)
}

/** A packet with the question that asks for it. */
interface Shown {
  /** The host that sends it, as `section/id`. */
  readonly sender: string
  readonly packet: Packet
  readonly question: Question
}

/** The same with the packet itself. */
export function packetShowing(
  survey: CheckContext,
  { subnet, table, hosts = table.kind.interfaces }: Asked,
  ranges: RangeSet,
  shows: Shows,
): Shown | null {
  const { model } = survey
  const [first] = ranges
  if (first === undefined) return null
  const family = familyOf(first.from)
  const dst = askedIn(survey, ranges)
  const senders = sendersOf(model, { subnet, table, hosts }, family)
  const shown = ({ asked: from, end }: Sender, packet: Packet): Shown => ({
    sender: end.ref,
    packet,
    question: askedFor(model, from, packet),
  })
  let usual: Shown | null = null
  let isAll = senders.length <= MOST_HOSTS
  let flows = 0
  for (const sender of senders.slice(0, MOST_HOSTS)) {
    const packet = { ...USUAL, src: sender.address, dst }
    usual ??= shown(sender, packet)
    if (walkPacket(model, sender.end, packet).some(shows)) return shown(sender, packet)
    const sent = sentTo(model, sender, ranges)
    let found: Packet | null = null
    const isEnded = !eachFlow(model, sender.end, sent, false, (flow) => {
      if (flow.branches.some(shows)) found = flow.packet
      return found !== null || ++flows >= MOST_FLOWS
    })
    if (found !== null) return shown(sender, found)
    if (isEnded || sent.length === MOST_BOXES) isAll = false
    if (isEnded) break
  }
  return isAll ? null : usual
}

const USUAL = { protocol: TCP, srcPort: DEFAULT_SOURCE_PORT, dstPort: 443 }

/** The packets that the rules of a host let out to some ranges, up to `MOST_BOXES`. */
function sentTo(
  model: Model,
  { end: { place }, address }: Sender,
  ranges: RangeSet,
): readonly PacketBox[] {
  const own = boxWith(allPackets(familyOf(address)), { src: { from: address, to: address } })
  const out: PacketBox[] = []
  for (const box of passing(model, { direction: 'out', place, crosses: true }, [own]))
    for (const part of partsWithin(ranges, box.dst)) {
      out.push(boxWith(box, { dst: part }))
      if (out.length === MOST_BOXES) return out
    }
  return out
}

function sendersOf(
  model: Model,
  { subnet, table: { kind }, hosts }: Required<Asked>,
  family: Family,
): readonly Sender[] {
  const own = kind.sources[family]
  if (own === null) return []
  if (kind.interfaces.length === 0) {
    const end = { in: 'subnet', place: kind.place, ref: kind.ref } as const
    return [{ end, address: own, asked: askedFrom(model, subnet, kind) }]
  }
  return hosts.flatMap((index): Sender[] => {
    const { ref, addresses } = model.interfaces[index]!
    const address = addresses.find(
      (one) => familyOf(one) === family && rangeNameOf(subnet, one) === kind.range,
    )
    if (address === undefined) return []
    const sources = family === 4 ? { 4: address, 6: null } : { 4: null, 6: address }
    const place = { subnet: subnet.index, interface: index }
    const asked = askedFrom(model, subnet, { interfaces: [index], sources })
    return [{ end: { in: 'subnet', place, ref }, address, asked }]
  })
}

/** A question that asks for one packet of an end named as questions do. */
export function askedFor(
  model: Model,
  from: string,
  { dst, protocol, srcPort, dstPort }: Packet,
): Question {
  const family = familyOf(dst)
  return {
    from,
    to:
      dst === lowestInternetAddress(model, family)
        ? internetText(model, family)
        : formatAddress(dst),
    protocol: protocolName(protocol),
    port: dstPort,
    ...(srcPort === null || srcPort === DEFAULT_SOURCE_PORT ? {} : { sourcePort: srcPort }),
  }
}
