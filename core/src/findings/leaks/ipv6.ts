import { rootOfWay } from '../deciding'
import { rangeSet } from '../../address/ranges'
import type { HopTable } from '../../hops/hops'
import type { SubnetModel } from '../../model/model'
import type { Add } from '../finding'
import { questionShowing } from '../shown'
import { closeIpv6 } from '../../mend/recipes/steering'
import {
  type CheckContext,
  passes,
  firewallsOf,
  gatewayOf,
  nameOf,
  rangeTexts,
  doorName,
} from '../survey'

/** IPv6 that leaves past the firewall or NAT that IPv4 passes. */
export function leakIpv6(
  survey: CheckContext,
  subnet: SubnetModel,
  table: HopTable,
  add: Add,
): void {
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
  const ranges = rangeSet(round.flatMap((part) => part.ranges))
  const question = questionShowing(
    survey,
    { subnet, table },
    ranges,
    ({ delivered, way }) => delivered && !way.some((ref) => firewalls.has(ref)),
  )
  if (!question) return
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
    root: rootOfWay({ model, subnet, hosts: table, dst: ranges[0]!.from }),
    ranges: rangeTexts(ranges, 12),
    question,
    mend: closeIpv6(model, subnet),
  })
}
