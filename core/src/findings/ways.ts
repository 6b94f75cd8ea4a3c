import type { Family } from '../address/address'
import { kindOf } from '../exits/exits'
import { eachFlow } from '../flows/flow'
import type { HopTable } from '../hops/hops'
import type { Outcome } from '../hops/onward'
import type { Model, SubnetModel } from '../model/model'
import { packetJson, type PacketJson } from '../packet/packet'
import { type Add, finding, unique, type Finding } from './finding'
import { closeIpv6, leaveByNat } from './mends'
import {
  endOf,
  FAMILIES,
  firewallsOf,
  fromText,
  internetText,
  listText,
  nameOf,
  passes,
  rangeTexts,
  checkSubnets,
  gatewayOf,
  type Survey,
} from './survey'

import { noWayOut } from './no-way-out'
import { lostWays } from './lost-ways'
import { leakService } from './service-by-internet'

/** Everything that is said of a subnet’s ways out from routes alone. */
export const checkWays = checkSubnets((survey, subnet) => {
  if (!subnet.up) return []
  const found: Finding[] = []
  const add: Add = (stated) => found.push(finding(stated))
  for (const table of survey.tablesOf(subnet)) {
    for (const family of FAMILIES) {
      leakDirect(survey, subnet, table, family, add)
      lostWays(survey, subnet, table, family, add)
      noPublicAddress(survey, subnet, table, family, add)
    }
    leakIpv6(survey, subnet, table, add)
    leakService(survey, subnet, table, add)
  }
  noWayOut(survey, subnet, add)
  return unique(found)
})

/** Whether packets leave to the internet as they are, or one to one: by a door that lets others in the same way. */
export function isDirect(model: Model, outcome: Outcome): boolean {
  if (kindOf(outcome) !== 'direct' || outcome.reaches !== 'internet') return false
  return gatewayOf(model, outcome.leavesBy)?.kind !== 'outbound-v6'
}

function leakDirect(
  survey: Survey,
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
    part: `${family}`,
    ranges: rangeTexts(
      parts.flatMap((part) => part.ranges),
      12,
    ),
    packet,
    question: { from: fromText(model, subnet, table), to: internetText(model, family) },
    mend:
      family === 6
        ? closeIpv6(model, subnet)
        : subnet.role === 'private'
          ? leaveByNat(model, subnet)
          : null,
  })
}

const doorName = (ref: string): string => (ref === 'internet' ? 'the built-in door' : nameOf(ref))

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

function noPublicAddress(
  survey: Survey,
  subnet: SubnetModel,
  table: HopTable,
  family: Family,
  add: Add,
): void {
  const { model } = survey
  if (table.kind.interfaces.length === 0) return
  const lost = survey
    .toInternet(subnet, table, family)
    .filter(({ outcome }) => outcome.cause?.code === 'no-public-address')
  if (lost.length === 0) return
  const hosts = table.kind.interfaces.map((index) => model.interfaces[index]!.ref)
  add({
    code: 'hole-no-public-address',
    severity: 'medium',
    anchor: subnet.ref,
    objects: [
      subnet.ref,
      ...hosts,
      ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []),
    ],
    sentence: `${subnet.id} has a direct way to the internet, but ${listText(hosts.map(nameOf))} ${hosts.length === 1 ? 'has' : 'have'} no public address.`,
    ranges: rangeTexts(
      lost.flatMap((part) => part.ranges),
      12,
    ),
    question: { from: fromText(model, subnet, table), to: internetText(model, family) },
  })
}

function leakIpv6(survey: Survey, subnet: SubnetModel, table: HopTable, add: Add): void {
  const { model } = survey
  const guarded = survey
    .toInternet(subnet, table, 4)
    .filter(({ outcome }) => outcome.cause === null && passes(outcome.ways, 'firewalls', 'nats'))
  if (guarded.length === 0) return
  const firewalls = new Set(guarded.flatMap(({ outcome }) => firewallsOf(outcome.ways)))
  const round = survey.toInternet(subnet, table, 6).filter(({ outcome }) => {
    if (outcome.cause !== null || outcome.reaches !== 'internet') return false
    if (firewalls.size > 0)
      return !outcome.ways.every((way) => way.some((ref) => firewalls.has(ref)))
    return (
      gatewayOf(model, outcome.leavesBy)?.kind !== 'outbound-v6' &&
      !passes(outcome.ways, 'firewalls', 'nats')
    )
  })
  if (round.length === 0) return
  const door = round[0]!.outcome.leavesBy ?? 'another way'
  const guard = guarded[0]!.outcome.ways[0]!.find((ref) => /^(firewalls|nats)\//.test(ref))!
  add({
    code: 'leak-ipv6',
    severity: 'high',
    anchor: subnet.ref,
    objects: [
      subnet.ref,
      ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []),
      guard,
      door.includes('/') ? door : null,
    ],
    sentence: `IPv4 from ${subnet.id} passes ${nameOf(guard)}, but IPv6 leaves by ${doorName(door)} without it.`,
    ranges: rangeTexts(
      round.flatMap((part) => part.ranges),
      12,
    ),
    question: { from: fromText(model, subnet, table), to: internetText(model, 6) },
    mend: closeIpv6(model, subnet),
  })
}
