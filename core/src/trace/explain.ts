import type { Cause, CauseCode, PathVerdict } from '../walk/causes'
import { nameOf } from '../walk/words'

/**
 * Every cause in one or two sentences: what happened, with the rule behind it. The object's id
 * takes the place of {}.
 */
const SENTENCES: Record<CauseCode, string> = {
  'denied-estate': 'The estate rule {} denies it, and no lower rule can overrule that.',
  'denied-local': 'The host’s own rules, {}, deny it.',
  'denied-interface': 'No rule of {} at the interface lets it pass.',
  'denied-subnet': 'No rule of {} at the subnet lets it pass.',
  'denied-boundary':
    'The list at the subnet’s edge, {}, denies it. A stateless list is asked again for the answer.',
  'nat-outbound-only':
    'The address belongs to {}, a NAT, and nothing can begin a flow towards one.',
  'gateway-outbound-only': '{} lets only flows through that begin inside.',
  'gateway-wrong-family': '{} takes IPv6 only.',
  'no-route': 'No route at {} covers the destination.',
  'drop-route': 'The route that wins at {} is a drop, and the packet ends there.',
  'no-such-subnet': 'The destination is in the network’s range, but in none of its subnets.',
  'interface-not-up': '{} is not up.',
  'target-missing':
    'The route that wins at {} leads to something that is not there; a route with a dead target still wins.',
  'target-not-up': 'The route leads to {}, which is not up; a route with a dead target still wins.',
  'target-elsewhere': 'The route leads to {}, which is not attached to this network.',
  'no-public-address':
    'The way out is direct, but {} has no public address, and no NAT is on the way.',
  'private-destination':
    'The destination is private, and {} leads to the internet, which does not carry it.',
  'no-internet-gateway': 'The network has no internet gateway that is up, so nothing can come in.',
  'nobody-has-it': '{} is reserved, but nobody has it.',
  'nat-no-address': '{} has no address that is not draining.',
  'nat-other-region': '{} serves another region than the one the packet comes from.',
  'nat-does-not-serve': '{} does not serve this subnet or range.',
  'nat-wrong-family': '{} translates IPv4 only.',
  'nat-without-way-out': '{} takes the packet and translates it, but finds no way out itself.',
  'nat-no-flow': 'The answer comes to {}, which did not make this flow and knows nothing of it.',
  'next-hop-missing': 'The next hop of the route that wins at {} is an address that nobody has.',
  'next-hop-not-up': 'The next hop {} is not up.',
  'next-hop-not-forwarding':
    'The next hop {} does not forward packets that are not addressed to it.',
  'next-hop-in-other-network':
    'The next hop of the route that wins at {} is in another network, where it must not be.',
  'answer-from-other-address':
    'The answer would come from another address than the one that was asked.',
  'denied-policy': 'The policy of {} denies it.',
  'no-state': 'The answer comes to {}, which never saw the flow begin and has no state for it.',
  'return-bypasses-firewall':
    'It goes there through {}, but the answer goes round it, and the firewall never sees the connection answered.',
  'peering-not-transitive':
    'The destination lies beyond the network that {} leads to, and a peering is not transitive.',
  'forwarded-refused':
    'The packet was forwarded from elsewhere, and {} does not take forwarded packets.',
  'site-does-not-have-it': '{} leads to a site that does not have the destination.',
  'site-has-no-route': 'No private gateway that is up announces the destination to {}.',
  'site-has-no-route-back':
    'No private gateway that is up announces the asker to {}, so it cannot answer.',
  'transit-not-in-zone': '{} has no subnet in the zone the packet comes from.',
  'wrong-service': '{} leads to another service than the one that has the destination.',
  'service-other-region': '{} leads to a service of another region.',
  'no-listener': '{} has no listener with a target for this port.',
  'name-unknown': 'Nobody that hosts of {} ask knows the name.',
  'answer-to-other-host': 'The answer arrives at {}, which did not ask.',
  looped: 'The packet comes to {} a second time, unchanged, and would go round for ever.',
}

/** A cause in plain words. */
export function explainCause(cause: Pick<Cause, 'code' | 'object' | 'inner'>): string {
  const sentence = SENTENCES[cause.code].replace('{}', nameOf(cause.object))
  if (!cause.inner) return sentence
  return `${sentence} ${(SENTENCES[cause.inner.code as CauseCode] ?? '').replace('{}', nameOf(cause.inner.object))}`
}

const VERDICTS: Record<PathVerdict, string> = {
  works: 'Works, there and back',
  'one-way': 'One way: the answer is lost',
  blocked: 'Blocked by rules',
  blackholed: 'Lost on the way',
  looped: 'Goes round in a ring',
}

/** A verdict in words. */
export const verdictText = (verdict: PathVerdict): string => VERDICTS[verdict]
