import { rootOfWay } from '../deciding'
import { rangeSet } from '../../address/ranges'
import type { Family } from '../../address/address'
import { kindOf } from '../../exits/exits'
import type { HopTable } from '../../hops/hops'
import type { Outcome } from '../../hops/outcome'
import type { Model, SubnetModel } from '../../model/model'
import { packetJson } from '../../packet/packet'
import type { Add } from '../finding'
import { packetShowing } from '../shown'
import { leaveByNat } from '../../mend/recipes/associations'
import { closeIpv6 } from '../../mend/recipes/steering'
import { gatewayOf, type CheckContext, listText, nameOf, rangeTexts, doorName } from '../survey'

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
  const [first] = parts
  const door = first!.outcome.leavesBy
  const hosts = table.kind.interfaces.map((index) => model.interfaces[index]!.ref)
  const ranges = rangeSet(parts.flatMap((part) => part.ranges))
  const shown = packetShowing(survey, { subnet, table }, ranges, ({ delivered }) => delivered)
  if (!shown) return
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
    packet: packetJson(shown.packet),
    question: shown.question,
    mend:
      family === 6
        ? closeIpv6(model, subnet)
        : subnet.role === 'private'
          ? leaveByNat(model, subnet)
          : null,
  })
}
