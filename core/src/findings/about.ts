import type { FindingCode } from './finding'

/** Each code in one or two sentences: what it says, with the rule of forwarding behind it. */
const ABOUT: Record<FindingCode, string> = {
  'leak-direct':
    'A subnet declared private or isolated has hosts that reach the internet, or are reached from it, with no translator or firewall between.',
  'leak-round-firewall':
    'Most of what this subnet sends passes a firewall, but some destinations go round it. The longest prefix wins: a more specific built-in, peering or learned route beats the default that leads to the firewall.',
  'leak-ipv6':
    'IPv4 passes a firewall or a NAT while IPv6 leaves another way. Each family has routes of its own; a default for one says nothing of the other.',
  'leak-one-way-inspected':
    'A firewall sees one direction only. Each direction is routed by its own side’s table, so both have to lead there.',
  'leak-service-by-internet':
    'A provider service is reached over the internet or through a NAT, though an endpoint or a switch in the network could carry it privately.',
  'leak-name-public':
    'A name that has a private answer in the estate resolves to a public one here, because the private zone is not linked to this network.',
  'leak-learned-route':
    'A route learned from elsewhere draws traffic that the table’s own default was to carry: it is more specific, and the longest prefix wins.',
  'leak-segment': 'Two segments that an expectation keeps apart can exchange a packet.',
  'open-to-internet':
    'Somebody on the internet can open a connection to this interface: a door, a public address, and rules of every level let it in and the answer out.',
  'in-round-firewall':
    'Traffic from outside comes in without passing the firewall that the way out passes.',
  'hole-dead-target':
    'A route leads to something that is missing, not up, or elsewhere. It wins all the same and its packets are lost; there is no falling back to a shorter one.',
  'hole-no-way-out':
    'Hosts have rules that allow the internet, but no route of their subnet leads there.',
  'hole-no-public-address':
    'The way out is direct, and a host without a public address cannot use it: an internet gateway translates nothing but an address the host has.',
  'hole-nat-without-way-out':
    'The translator’s own subnet has no way to the internet, so everything it takes is lost behind it.',
  'hole-nat-out-of-reach': 'The translator is of another region, or does not serve this subnet.',
  'hole-next-hop':
    'A route’s next hop is an address that nobody has, that does not forward, or that is out of reach.',
  'hole-not-transitive':
    'A peering carries packets between its two networks only, never on to what lies beyond one of them; that takes a router.',
  'hole-forwarded-refused':
    'Packets that were forwarded from elsewhere come to a peering that takes only those its own networks’ hosts sent.',
  'hole-no-way-back':
    'The packet is delivered, but its answer is lost: the side that answers needs a route back of its own.',
  'hole-no-state':
    'A firewall that keeps state sees only one half of the flow: the answer goes round it, or meets one that never saw the flow begin.',
  'hole-ephemeral':
    'A stateless list lets the request through but not its answer, which goes to a port between 1024 and 65535 that the client chose.',
  'hole-loop':
    'Routes lead the packet back to where it was, unchanged, and it would go round for ever.',
  'hole-overlap':
    'Connected networks have the same addresses; a route leads to one of them, and the other cannot be reached.',
  'hole-rules-without-route': 'Rules allow these destinations, but no route leads there.',
  'hole-route-without-rules': 'A route leads there, but no rule lets any packet out.',
  'odd-role':
    'The subnet’s declared role and its routes contradict each other: public without a way in, or private with one.',
  'odd-default-table':
    'The subnet has no table of its own and relies on its network’s default, while its neighbours of the same role have one.',
  'odd-steers-nothing':
    'A route to a firewall that no packet uses, or that covers only the firewall’s own subnet.',
  'odd-shared-inspection-subnet':
    'A host stands in a firewall’s subnet. What it sends does not pass the firewall beside it.',
  'odd-crosses-zone':
    'The way out depends on something in another zone: an outage there takes this subnet’s way out down, and traffic between zones is charged.',
  'odd-changing-address': 'A partner that allows us by address sees one that may change by itself.',
  'odd-not-allowlisted': 'A partner sees us come from an address that its allowlist lacks.',
  'odd-nat-capacity':
    'So many hosts share the translator’s addresses that its source ports can run out; each address offers 64,512.',
  'odd-quota': 'A quota is passed, or nine tenths of it are used.',
  'odd-missing-tag': 'An object lacks a tag that the organisation requires.',
  'odd-name-server': 'A subnet cannot reach its network’s own name server on port 53.',
  'odd-shadowed-route':
    'A route that never wins: another of the same destination always comes before it.',
  'odd-shadowed-rule':
    'A rule that never decides: those asked before it take every packet it would match.',
  'odd-no-rules':
    'No rule set holds for this interface at any level, so everything that routes bring reaches it.',
  'idle-table': 'No subnet, gateway or transit uses this table.',
  'idle-gateway': 'No route leads to this gateway.',
  'idle-nat': 'No route leads to this translator.',
  'idle-address': 'A reserved public address that nobody has; it is charged all the same.',
  'idle-rule-set': 'No interface or subnet has this rule set.',
  'idle-network': 'A network without subnets.',
  'idle-peering': 'No route leads over this peering.',
  'idle-endpoint': 'No route leads to this endpoint.',
}

/** What a finding’s code says, for whoever meets it the first time. */
export const aboutFinding = (code: FindingCode): string => ABOUT[code]
