import type { FindingRecord } from '../record'
import { checkNats } from '../nats'
import { checkRoutes } from '../routes'
import { checkWays } from '../ways-out'
import { checkAnswers, checkInspection, checkWaysBack } from './answers'
import { checkEphemeral } from './ephemeral'
import { checkOverlaps } from './overlaps'
import { checkRulesAndRoutes } from './rules-and-routes'

/** Traffic is lost. One record a finding. */
export const HOLES = {
  'hole-dead-target': {
    family: 'hole',
    anchors: ['routeTables'],
    severities: ['high', 'low'],
    about:
      'A route leads to something that is missing, not up, or elsewhere. It wins all the same and its packets are lost; there is no falling back to a shorter one.',
    leaving: 'by-its-ranges',
    entering: false,
    foundBy: [checkRoutes],
    mended: 'by-leading',
  },
  'hole-no-way-out': {
    family: 'hole',
    anchors: ['subnets'],
    severities: ['medium'],
    about: 'Hosts have rules that allow the internet, but no route of their subnet leads there.',
    leaving: 'internet',
    entering: false,
    foundBy: [checkWays],
    mended: 'by-leading',
  },
  'hole-no-public-address': {
    family: 'hole',
    anchors: ['subnets'],
    severities: ['medium'],
    about:
      'The way out is direct, and a host without a public address cannot use it: an internet gateway translates nothing but an address the host has.',
    leaving: 'internet',
    entering: false,
    foundBy: [checkWays],
    mended: 'by-leading',
  },
  'hole-nat-without-way-out': {
    family: 'hole',
    anchors: ['nats'],
    severities: ['critical'],
    about:
      'The translator’s own subnet has no way to the internet, so everything it takes is lost behind it.',
    leaving: 'internet',
    entering: false,
    foundBy: [checkNats],
    mended: 'by-leading',
  },
  'hole-nat-out-of-reach': {
    family: 'hole',
    anchors: ['nats'],
    severities: ['high'],
    about: 'The translator is of another region, or does not serve this subnet.',
    leaving: 'internet',
    entering: false,
    foundBy: [checkWays],
    mended: 'by-leading',
  },
  'hole-next-hop': {
    family: 'hole',
    anchors: ['routeTables'],
    severities: ['high', 'low'],
    about:
      'A route’s next hop is an address that nobody has, that does not forward, or that is out of reach.',
    leaving: 'by-its-ranges',
    entering: false,
    foundBy: [checkRoutes],
    mended: 'by-leading',
  },
  'hole-not-transitive': {
    family: 'hole',
    anchors: ['peerings'],
    severities: ['high'],
    about:
      'A peering carries packets between its two networks only, never on to what lies beyond one of them; that takes a router.',
    leaving: 'by-its-ranges',
    entering: false,
    foundBy: [checkWays],
    mended: 'by-leading',
  },
  'hole-forwarded-refused': {
    family: 'hole',
    anchors: ['peerings'],
    severities: ['high'],
    about:
      'Packets that were forwarded from elsewhere come to a peering that takes only those its own networks’ hosts sent.',
    leaving: 'by-its-ranges',
    entering: false,
    foundBy: [checkWays],
    mended: 'by-leading',
  },
  'hole-no-way-back': {
    family: 'hole',
    anchors: ['subnets'],
    severities: ['high'],
    about:
      'The packet is delivered, but its answer is lost: the side that answers needs a route back of its own.',
    leaving: null,
    entering: true,
    foundBy: [checkAnswers, checkWaysBack, checkInspection],
    mended: 'by-leading',
  },
  'hole-no-state': {
    family: 'hole',
    anchors: ['subnets'],
    severities: ['high'],
    about:
      'A firewall that keeps state sees only one half of the flow: the answer goes round it, or meets one that never saw the flow begin.',
    leaving: 'by-its-ranges',
    entering: true,
    foundBy: [checkAnswers, checkWaysBack, checkInspection],
    mended: 'by-leading',
  },
  'hole-ephemeral': {
    family: 'hole',
    anchors: ['ruleSets'],
    severities: ['high'],
    about:
      'A stateless list lets the request through but not its answer, which goes to a port between 1024 and 65535 that the client chose.',
    leaving: null,
    entering: true,
    foundBy: [checkEphemeral],
    mended: 'by-leading',
  },
  'hole-loop': {
    family: 'hole',
    anchors: ['subnets'],
    severities: ['high', 'medium'],
    about:
      'Routes lead the packet back to where it was, unchanged, and it would go round for ever.',
    leaving: 'by-its-ranges',
    entering: false,
    foundBy: [checkWays],
    mended: 'by-leading',
  },
  'hole-overlap': {
    family: 'hole',
    anchors: ['networks'],
    severities: ['high'],
    about:
      'Connected networks have the same addresses; a route leads to one of them, and the other cannot be reached.',
    leaving: null,
    entering: true,
    foundBy: [checkOverlaps],
    mended: 'by-leading',
  },
  'hole-rules-without-route': {
    family: 'hole',
    anchors: ['subnets'],
    severities: ['medium'],
    about: 'Rules allow these destinations, but no route leads there.',
    leaving: 'by-its-ranges',
    entering: false,
    foundBy: [checkRulesAndRoutes],
    mended: 'by-leading',
  },
  'hole-route-without-rules': {
    family: 'hole',
    anchors: ['subnets'],
    severities: ['medium'],
    about: 'A route leads there, but no rule lets any packet out.',
    leaving: 'by-its-ranges',
    entering: false,
    foundBy: [checkRulesAndRoutes],
    mended: 'by-leading',
  },
} as const satisfies Record<string, FindingRecord>
