import { parseAddress, type Address } from '../../address/address'
import { containsAddress, prefixOf } from '../../address/prefix'
import { isPublic } from '../../address/public'
import type { Rule } from '../../format/estate'
import type { RulesEvidence } from '../../rules/words'
import { pointer, type Operation } from '../../changes/index'
import { covers, freeId, host, type Situation } from '../situation'

/**
 * The kind of traffic that was denied, as a rule names it: the protocol and port that were asked
 * for. An answer goes to any port a client may have chosen (RFC 6056).
 */
export function kindOfTraffic({ packet, cause }: Situation): Pick<Rule, 'protocol' | 'ports'> {
  const { protocol, dstPort } = packet
  const named = protocol as Rule['protocol']
  if (dstPort === null) return { protocol: named }
  return cause.direction === 'return' && dstPort >= FIRST_EPHEMERAL
    ? { protocol: named, ports: [`${FIRST_EPHEMERAL}-65535`] }
    : { protocol: named, ports: [dstPort] }
}

/** The lowest port that a host sends from. */
export const FIRST_EPHEMERAL = 1024

/** The kind of traffic in words, such as `tcp 443` or `tcp 1024-65535`. */
export function trafficText(s: Situation): string {
  const { protocol, ports } = kindOfTraffic(s)
  return ports ? `${protocol} ${ports.join()}` : String(protocol)
}

export const directionOf = ({ stations }: Situation): 'in' | 'out' =>
  (stations.at(-1)!.evidence as Partial<RulesEvidence>).direction ?? 'in'

/**
 * The far side of a packet that was denied, as a rule's peer: its subnet, site, or the internet.
 */
export function peerOf(s: Situation): string {
  const { packet } = s
  const text = directionOf(s) === 'out' ? packet.dst : packet.src
  return rangeAround(s, parseAddress(text)!) ?? host(text)
}

/** The range of the subnet or site an address is in; `internet` for one that is in neither. */
function rangeAround({ estate, network }: Situation, address: Address): string | null {
  const near = [...estate.subnets.values()].sort(
    (a, b) => Number(b.network === network) - Number(a.network === network),
  )
  const ranges = [...near, ...estate.sites.values()].flatMap((one) => one.ranges ?? [])
  const own = ranges.find((text) => containsAddress(prefixOf(text), address))
  if (own !== undefined) return own
  const inNetwork = [...estate.networks.values()].some((one) => covers(one.ranges, address))
  return isPublic(address) && !inNetwork ? 'internet' : null
}

/** A rule for the kind of traffic that was denied, before all others of some rules. */
export function ruleFor(s: Situation, rules: readonly Rule[]): Rule {
  const ordered = rules.some((rule) => rule.order !== undefined)
  const first = Math.min(...rules.map((rule) => rule.order ?? 0))
  const order = ordered ? { order: Math.max(0, first - 1), action: 'allow' as const } : {}
  return { ...order, direction: directionOf(s), ...kindOfTraffic(s), peers: [peerOf(s)] } as Rule
}

/** A rule for the kind of traffic that was denied, in the set that denied it. */
export function allowInSet(s: Situation): Operation[] {
  const set = s.estate.ruleSets.get(s.id)
  if (!set) return []
  const rule = ruleFor(s, set.rules ?? [])
  if (!set.rules) return [{ op: 'add', path: pointer('ruleSets', s.id, 'rules'), value: [rule] }]
  return [{ op: 'add', path: pointer('ruleSets', s.id, 'rules', 0), value: rule }]
}

/** The same in a copy of the set, which only the object that is asked for carries. */
export function allowInOwnSet(
  s: Situation,
  section: 'interfaces' | 'subnets',
  id: string,
  key: 'ruleSets' | 'localRules' | 'boundary',
): Operation[] {
  const { estate } = s
  const object = estate[section].get(id) as
    { ruleSets?: readonly string[]; localRules?: string; boundary?: string } | undefined
  const set = estate.ruleSets.get(s.id)
  if (object === undefined) return []
  const own = freeId(estate.ruleSets, `${id}-${key === 'boundary' ? 'boundary' : 'rules'}`)
  if (key === 'ruleSets') {
    // Sets of one level are united, so that one more opens nothing but its own rule.
    const rules = [ruleFor(s, [])]
    const path = pointer(section, id, 'ruleSets')
    return [
      { op: 'add', path: pointer('ruleSets', own), value: { rules } },
      object.ruleSets === undefined
        ? { op: 'add', path, value: [own] }
        : { op: 'add', path: `${path}/-`, value: own },
    ]
  }
  if (set === undefined || object[key] !== s.id) return []
  const { title: _, ...rest } = set
  const copy = { ...rest, rules: [ruleFor(s, set.rules ?? []), ...(set.rules ?? [])] }
  return [
    { op: 'add', path: pointer('ruleSets', own), value: copy },
    { op: 'replace', path: pointer(section, id, key), value: own },
  ]
}

/**
 * A rule of the estate that leaves the kind of traffic to the lower levels, before the one that
 * denied it.
 */
export function deferInEstate(s: Situation): Operation[] {
  const order = Math.max(0, Number(s.id) - 1)
  const rule = {
    order,
    direction: directionOf(s),
    action: 'defer',
    ...kindOfTraffic(s),
    peers: [peerOf(s)],
  }
  return [{ op: 'add', path: '/estateRules/0', value: rule }]
}

/** A line of a firewall's policy for the kind of traffic, before all others. */
export function allowInPolicy(s: Situation): Operation[] {
  const firewall = s.estate.firewalls.get(s.id)
  if (!firewall) return []
  const first = Math.min(...(firewall.policy ?? []).map((rule) => rule.order), 1)
  const around = (text: string): string => {
    const range = rangeAround(s, parseAddress(text)!)
    return range === null || range === 'internet' ? host(text) : range
  }
  const rule = {
    order: Math.max(0, first - 1),
    from: [around(s.packet.src)],
    to: [around(s.packet.dst)],
    ...kindOfTraffic(s),
    action: 'allow',
  }
  if (!firewall.policy)
    return [{ op: 'add', path: pointer('firewalls', s.id, 'policy'), value: [rule] }]
  return [{ op: 'add', path: pointer('firewalls', s.id, 'policy', 0), value: rule }]
}
