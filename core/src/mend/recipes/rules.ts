import type { RulesEvidence } from '../../rules/words'
import { pointer, type Operation } from '../../changes/index'
import { host, type Situation } from '../situation'

/** Protocol and port of the packet that was denied, as a rule names them. */
const transport = ({ packet }: Situation): object => ({
  protocol: packet.protocol,
  ...(packet.dstPort === null ? {} : { ports: [packet.dstPort] }),
})

function directionOf({ stations }: Situation): 'in' | 'out' {
  return (stations.at(-1)!.evidence as Partial<RulesEvidence>).direction ?? 'in'
}

/** A rule for just this packet, before all others of the set. */
export function allowInSet(s: Situation): Operation[] {
  const set = s.estate.ruleSets.get(s.id)
  if (!set) return []
  const direction = directionOf(s)
  const ordered = set.rules?.some((rule) => rule.order !== undefined) ?? false
  const first = Math.min(...(set.rules ?? []).map((rule) => rule.order ?? 0))
  const order = ordered ? { order: Math.max(0, first - 1), action: 'allow' } : {}
  const peer = host(direction === 'out' ? s.packet.dst : s.packet.src)
  const rule = { ...order, direction, ...transport(s), peers: [peer] }
  if (!set.rules) return [{ op: 'add', path: pointer('ruleSets', s.id, 'rules'), value: [rule] }]
  return [{ op: 'add', path: pointer('ruleSets', s.id, 'rules', 0), value: rule }]
}

/**
 * A rule of the estate that leaves just this packet to the lower levels, before the one that denied
 * it.
 */
export function deferInEstate(s: Situation): Operation[] {
  const direction = directionOf(s)
  const order = Math.max(0, Number(s.id) - 1)
  const rule = {
    order,
    direction,
    action: 'defer',
    ...transport(s),
    peers: [host(direction === 'out' ? s.packet.dst : s.packet.src)],
  }
  return [{ op: 'add', path: '/estateRules/0', value: rule }]
}

/** A line of a firewall's policy for just this packet, before all others. */
export function allowInPolicy(s: Situation): Operation[] {
  const firewall = s.estate.firewalls.get(s.id)
  if (!firewall) return []
  const first = Math.min(...(firewall.policy ?? []).map((rule) => rule.order), 1)
  const rule = {
    order: Math.max(0, first - 1),
    from: [host(s.packet.src)],
    to: [host(s.packet.dst)],
    ...transport(s),
    action: 'allow',
  }
  if (!firewall.policy)
    return [{ op: 'add', path: pointer('firewalls', s.id, 'policy'), value: [rule] }]
  return [{ op: 'add', path: pointer('firewalls', s.id, 'policy', 0), value: rule }]
}
