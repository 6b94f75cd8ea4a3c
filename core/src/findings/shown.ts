import { familyOf, formatAddress, type Address, type Family } from '../address/address'
import { partsWithin, rangesContain, type RangeSet } from '../address/ranges'
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
import { hostIn, internetText, type CheckContext } from './survey'

/** Whether a branch of a flow shows what a finding says. */
export type Shows = (branch: FlowBranch) => boolean

/** Whether rules stopped a packet, and no route lost it. */
export const isDenied = (cause: Cause | null): boolean => cause?.code.startsWith('denied-') === true

/** So many hosts of a kind are looked at */
const MOST_HOSTS = 8
/** and so many kinds of packets of each. */
const MOST_FLOWS = 400

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
 * Costs one walk in nearly all cases, and at most a few hundred.
 */
export const questionShowing = (
  survey: CheckContext,
  asked: Asked,
  ranges: RangeSet,
  shows: Shows,
): Question | null => packetShowing(survey, asked, ranges, shows)?.question ?? null

/** A packet with the question that asks for it. */
interface Shown {
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
  const lowest = lowestInternetAddress(model, family)
  const dst = rangesContain(ranges, lowest) ? lowest : hostIn(survey, ranges)
  const senders = sendersOf(model, { subnet, table, hosts }, family)
  const shown = ({ asked: from }: Sender, packet: Packet): Shown => ({
    packet,
    question: askedFor(model, from, packet),
  })
  let usual: Shown | null = null
  let isAll = senders.length <= MOST_HOSTS
  for (const sender of senders.slice(0, MOST_HOSTS)) {
    const packet = { ...USUAL, src: sender.address, dst }
    usual ??= shown(sender, packet)
    if (walkPacket(model, sender.end, packet).some(shows)) return shown(sender, packet)
    const sent = letOutBy(model, sender).flatMap((box) =>
      partsWithin(ranges, box.dst).map((part) => boxWith(box, { dst: part })),
    )
    let found: Packet | null = null
    let flows = 0
    const isEnded = !eachFlow(model, sender.end, sent, false, (flow) => {
      if (flow.branches.some(shows)) found = flow.packet
      return found !== null || ++flows === MOST_FLOWS
    })
    if (found !== null) return shown(sender, found)
    isAll &&= !isEnded
  }
  return isAll ? null : usual
}

const USUAL = { protocol: TCP, srcPort: DEFAULT_SOURCE_PORT, dstPort: 443 }

/** The packets that the rules of a host let out. */
function letOutBy(model: Model, { end: { place }, address }: Sender): readonly PacketBox[] {
  const own = boxWith(allPackets(familyOf(address)), { src: { from: address, to: address } })
  return passing(model, { direction: 'out', place, crosses: true }, [own])
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
