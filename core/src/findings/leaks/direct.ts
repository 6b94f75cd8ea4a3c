import { rootOfWay } from '../deciding'
import { rangeSet } from '../../address/ranges'
import type { Family } from '../../address/address'
import { kindOf } from '../../exits/exits'
import { eachFlow } from '../../flows/flow'
import type { HopTable } from '../../hops/hops'
import type { Outcome } from '../../hops/outcome'
import type { Model, SubnetModel } from '../../model/model'
import { type PacketJson, packetJson } from '../../packet/packet'
import type { Add } from '../finding'
import { leaveByNat } from '../../mend/recipes/associations'
import { closeIpv6 } from '../../mend/recipes/steering'
import {
  gatewayOf,
  type CheckContext,
  listText,
  nameOf,
  rangeTexts,
  fromText,
  askedIn,
  endOf,
} from '../survey'
import { doorName } from '../survey'

/**
 * Whether packets leave to the internet as they are, or one to one: by a door that lets others in
 * the same way.
 */
export function isDirect(model: Model, outcome: Outcome): boolean {
  if (kindOf(outcome) !== 'direct' || outcome.reaches !== 'internet') return false
  return gatewayOf(model, outcome.leavesBy)?.kind !== 'outbound-v6'
}

/** Hosts of private or isolated subnets that reach the internet directly. */
export function leakDirect(
  survey: CheckContext,
  subnet: SubnetModel,
  table: HopTable,
  family: Family,
  add: Add,
): void {
  const { model } = survey
  if (
    (subnet.role !== 'private' && subnet.role !== 'isolated') ||
    table.kind.interfaces.length === 0
  )
    return
  const parts = survey
    .toInternet(subnet, table, family)
    .filter(
      ({ outcome }) =>
        isDirect(model, outcome) ||
        (subnet.role === 'isolated' && outcome.cause === null && outcome.reaches === 'internet'),
    )
  if (parts.length === 0) return
  const packet = someDelivered(model, table, family)
  if (packet === null) return
  const [first] = parts
  const door = first!.outcome.leavesBy
  const hosts = table.kind.interfaces.map((index) => model.interfaces[index]!.ref)
  const ranges = rangeSet(parts.flatMap((part) => part.ranges))
  const dst = ranges[0]!.from
  add({
    code: 'leak-direct',
    severity: 'high',
    anchor: subnet.ref,
    objects: [
      subnet.ref,
      ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []),
      ...hosts,
      door?.includes('/') ? door : null,
    ],
    sentence: `${subnet.id} is declared ${subnet.role}, but ${listText(hosts.map(nameOf))} reach${hosts.length === 1 ? 'es' : ''} the internet directly${door ? ` by ${doorName(door)}` : ''}${family === 6 ? ' over IPv6' : ''}.`,
    root: rootOfWay({ model, subnet, hosts: table, dst }),
    part: `${family}`,
    ranges: rangeTexts(ranges, 12),
    packet,
    question: { from: fromText(model, subnet, table), to: askedIn(survey, ranges, family) },
    mend:
      family === 6
        ? closeIpv6(model, subnet)
        : subnet.role === 'private'
          ? leaveByNat(model, subnet)
          : null,
  })
}

/** Any packet of a kind of host that the internet gets, rules and all. */
function someDelivered(model: Model, table: HopTable, family: Family): PacketJson | null {
  const src = table.kind.sources[family]
  if (src === null) return null
  let found: PacketJson | null = null
  const ports = { from: 0, to: 65535 }
  const boxes = model.internetSpace
    .filter((range) => (typeof range.from === 'number') === (family === 4))
    .map((dst) => ({
      src: { from: src, to: src },
      dst,
      protocol: { from: 0, to: 255 },
      srcPort: ports,
      dstPort: ports,
    }))
  eachFlow(model, endOf(table), boxes, false, (flow) => {
    if (flow.branches.some((one) => one.delivered && one.deliveredAt?.in === 'outside'))
      found = packetJson(flow.packet)
    return found !== null
  })
  return found
}
