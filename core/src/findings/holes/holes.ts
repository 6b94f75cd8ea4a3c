import type { FindingRecord } from '../record'
import { checkNats } from '../nats'
import { checkRoutes } from '../routes'
import { checkWays } from '../ways-out'
import { checkAnswers, checkWaysBack } from './answers'
import { checkInspection } from './inspected-pairs'
import { checkFromInternet } from '../leaks/from-internet'
import { checkAnnounced, checkSitesToInternet } from './announced'
import { checkEndpointInterfaces, checkPublished } from './dead-ends'
import { checkDoors } from './doors'
import { checkEphemeral } from './ephemeral'
import { checkOverlaps } from './overlaps'
import { checkRulesAndRoutes } from './rules-and-routes'

/** Traffic is lost. One record a finding. */
export const HOLES = {
  'hole-dead-target': {
    family: 'hole',
    anchors: ['routeTables', 'frontends', 'firewalls', 'endpoints'],
    severities: ['high', 'medium', 'low'],
    about:
      'A route leads to something that is missing, not up, or elsewhere. It wins all the same and its packets are lost; there is no falling back to a shorter one. Or a frontend, an endpoint or a forwarded port leads to a host that is not there or not up.',
    effect: 'packets are sent to what is missing, down or elsewhere',
    leaving: 'by-its-ranges',
    entering: false,
    foundBy: [checkRoutes, ...checkPublished, checkEndpointInterfaces],
    mended: 'by-leading',
  },
  'hole-no-way-out': {
    family: 'hole',
    anchors: ['subnets'],
    severities: ['medium'],
    about: 'Hosts have rules that allow the internet, but no route of their subnet leads there.',
    effect: 'hosts have no way to the internet',
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
    effect: 'hosts without a public address are led straight to the internet',
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
    effect: 'everything that a translator takes is lost',
    leaving: 'internet',
    entering: false,
    foundBy: [checkNats],
    mended: 'by-leading',
  },
  'hole-nat-out-of-reach': {
    family: 'hole',
    anchors: ['nats', 'estate'],
    severities: ['high', 'note'],
    about:
      'The translator is of another region or does not serve this subnet; or the table of a gateway leads to it what comes in from outside.',
    effect: 'packets are sent to a translator that does not serve them',
    leaving: 'internet',
    entering: false,
    foundBy: [checkWays, checkFromInternet],
    mended: 'by-leading',
  },
  'hole-next-hop': {
    family: 'hole',
    anchors: ['routeTables'],
    severities: ['high', 'low'],
    about:
      'A route’s next hop is an address that nobody has, that does not forward, or that is out of reach.',
    effect: 'packets are sent to a next hop that loses them',
    leaving: 'by-its-ranges',
    entering: false,
    foundBy: [checkRoutes],
    mended: 'by-leading',
  },
  'hole-not-transitive': {
    family: 'hole',
    anchors: ['peerings', 'estate'],
    severities: ['high', 'note'],
    about:
      'A peering carries packets between its two networks only, never on to what lies beyond one of them; that takes a router.',
    effect: 'packets for what lies beyond a peering are lost at it',
    leaving: 'by-its-ranges',
    entering: false,
    foundBy: [checkWays, checkFromInternet],
    mended: 'by-leading',
  },
  'hole-forwarded-refused': {
    family: 'hole',
    anchors: ['peerings', 'estate'],
    severities: ['high', 'note'],
    about:
      'Packets that were forwarded from elsewhere come to a peering that takes only those its own networks’ hosts sent.',
    effect: 'forwarded packets are lost at a peering',
    leaving: 'by-its-ranges',
    entering: false,
    foundBy: [checkWays, checkFromInternet],
    mended: 'by-leading',
  },
  'hole-no-way-back': {
    family: 'hole',
    anchors: ['subnets'],
    severities: ['high'],
    about:
      'The packet is delivered, but its answer is lost: the side that answers needs a route back of its own.',
    effect: 'requests arrive, and their answers are lost',
    leaving: null,
    entering: true,
    foundBy: [checkAnswers, checkWaysBack, checkInspection, checkAnnounced, checkFromInternet],
    mended: 'by-leading',
  },
  'hole-no-state': {
    family: 'hole',
    anchors: ['subnets'],
    severities: ['high'],
    about:
      'A firewall that keeps state sees only one half of the flow: the answer goes round it, or meets one that never saw the flow begin.',
    effect: 'answers miss the firewall that keeps the state of their flow',
    leaving: 'by-its-ranges',
    entering: true,
    foundBy: [checkAnswers, checkWaysBack, checkInspection, checkAnnounced, checkFromInternet],
    mended: 'by-leading',
  },
  'hole-ephemeral': {
    family: 'hole',
    anchors: ['ruleSets'],
    severities: ['high'],
    about:
      'A stateless list lets the request through but not its answer, which goes to a port between 1024 and 65535 that the client chose.',
    effect: 'requests pass a stateless list, and their answers do not',
    leaving: null,
    entering: true,
    foundBy: [checkEphemeral],
    mended: 'by-leading',
  },
  'hole-loop': {
    family: 'hole',
    anchors: ['subnets', 'estate'],
    severities: ['high', 'medium', 'note'],
    about:
      'Routes lead the packet back to where it was, unchanged, and it would go round for ever.',
    effect: 'packets go round in a ring',
    leaving: 'by-its-ranges',
    entering: false,
    foundBy: [checkWays, checkFromInternet],
    mended: 'by-leading',
  },
  'hole-overlap': {
    family: 'hole',
    anchors: ['networks'],
    severities: ['high'],
    about:
      'Connected networks have the same addresses; a route leads to one of them, and the other cannot be reached.',
    effect: 'of two connected networks with the same addresses one is never reached',
    leaving: null,
    entering: true,
    foundBy: [checkOverlaps],
    mended: 'by-leading',
  },
  'hole-no-door': {
    family: 'hole',
    anchors: ['interfaces', 'frontends', 'firewalls'],
    severities: ['medium'],
    about:
      'Something has a public address in a network that has no internet gateway up: nobody can come in by it.',
    effect: 'nobody can come in by a public address',
    leaving: null,
    entering: true,
    foundBy: [checkDoors],
    mended: 'by-leading',
  },
  'hole-not-announced': {
    family: 'hole',
    anchors: ['sites'],
    severities: ['high'],
    about:
      'A site sends packets only where a gateway announces something to it. Rules let its packets in, and they never come, or come in where no way leads on.',
    effect: 'packets of a site do not come to where rules let them in',
    leaving: null,
    entering: false,
    foundBy: [checkAnnounced, checkSitesToInternet],
    mended: 'by-leading',
  },
  'hole-rules-without-route': {
    family: 'hole',
    anchors: ['subnets'],
    severities: ['medium', 'note'],
    about:
      'Rules name these destinations, of a site or another network, and no route leads there; of ranges that nobody has it is a note.',
    effect: 'what rules allow has no route',
    leaving: 'by-its-ranges',
    entering: false,
    foundBy: [checkRulesAndRoutes],
    mended: 'by-leading',
  },
  'hole-route-without-rules': {
    family: 'hole',
    anchors: ['subnets'],
    severities: ['medium'],
    about:
      'Hosts have a way out to the internet and no rule that lets anything out to it, while rules of other hosts in the subnet do.',
    effect: 'hosts with a way to the internet are let out by no rule',
    leaving: 'internet',
    entering: false,
    foundBy: [checkRulesAndRoutes],
    mended: 'by-leading',
  },
} as const satisfies Record<string, FindingRecord>
