import type { FindingRecord } from '../record'
import { checkAnnounced } from '../holes/announced'
import { checkAnswers, checkWaysBack } from '../holes/answers'
import { checkInspection } from '../holes/inspected-pairs'
import { checkWays } from '../ways-out'
import { checkFromInternet } from './from-internet'
import { checkLearned } from './learned-route'
import { checkNames } from './names'
import { checkRoundFirewall } from './round-firewall'
import { checkSegments } from './segments'

/** Traffic goes a way it should not. One record a finding. */
export const LEAKS = {
  'leak-direct': {
    family: 'leak',
    anchors: ['subnets'],
    severities: ['high'],
    about:
      'A subnet declared private or isolated has hosts that reach the internet, or are reached from it, with no translator or firewall between.',
    effect: 'hosts declared private or isolated reach the internet directly',
    leaving: 'internet',
    entering: true,
    foundBy: [checkWays],
    mended: 'by-its-check',
  },
  'leak-round-firewall': {
    family: 'leak',
    anchors: ['subnets'],
    severities: ['high'],
    about:
      'Most of what this subnet sends passes a firewall, but some destinations go round it. The longest prefix wins: a more specific built-in, peering or learned route beats the default that leads to the firewall.',
    effect: 'traffic goes round a firewall',
    leaving: 'by-its-ranges',
    entering: false,
    foundBy: [checkRoundFirewall],
    mended: 'by-its-check',
  },
  'leak-ipv6': {
    family: 'leak',
    anchors: ['subnets'],
    severities: ['high'],
    about:
      'IPv4 passes a firewall or a NAT while IPv6 leaves another way. Each family has routes of its own; a default for one says nothing of the other.',
    effect: 'IPv6 leaves past what IPv4 passes',
    leaving: 'internet',
    entering: false,
    foundBy: [checkWays],
    mended: 'by-its-check',
  },
  'leak-one-way-inspected': {
    family: 'leak',
    anchors: ['subnets'],
    severities: ['high'],
    about:
      'A firewall sees one direction only. Each direction is routed by its own side’s table, so both have to lead there.',
    effect: 'a firewall sees traffic in one direction only',
    leaving: 'by-its-ranges',
    entering: true,
    foundBy: [checkAnswers, checkWaysBack, checkInspection, checkAnnounced, checkFromInternet],
    mended: 'by-leading',
  },
  'leak-service-by-internet': {
    family: 'leak',
    anchors: ['subnets'],
    severities: ['low', 'note'],
    about:
      'A provider service is reached over the internet or through a NAT, though an endpoint or a switch in the network could carry it privately.',
    effect: 'services are reached over the internet',
    leaving: 'services',
    entering: false,
    foundBy: [checkWays],
    mended: 'by-its-check',
  },
  'leak-name-public': {
    family: 'leak',
    anchors: ['networks'],
    severities: ['low'],
    about:
      'A name that has a private answer in the estate resolves to a public one here, because the private zone is not linked to this network.',
    effect: 'names with a private answer resolve to public addresses',
    leaving: null,
    entering: false,
    foundBy: [checkNames],
    mended: 'by-its-check',
  },
  'leak-learned-route': {
    family: 'leak',
    anchors: ['routeTables'],
    severities: ['high', 'medium'],
    about:
      'A route learned from elsewhere draws traffic that the table’s own default was to carry: it is more specific, and the longest prefix wins.',
    effect: 'learned routes draw traffic away from a default of its own',
    leaving: 'by-its-ranges',
    entering: false,
    foundBy: [checkLearned],
    mended: 'by-its-check',
  },
  'leak-segment': {
    family: 'leak',
    anchors: ['subnets'],
    severities: ['critical'],
    about: 'Two segments that an expectation keeps apart can exchange a packet.',
    effect: 'packets pass between segments that are to stay apart',
    leaving: null,
    entering: true,
    foundBy: [checkSegments],
    mended: 'by-stopping',
  },
  'open-to-internet': {
    family: 'leak',
    anchors: ['interfaces'],
    severities: ['critical', 'medium', 'note'],
    about:
      'Somebody on the internet can open a connection to this interface: a door, a public address, and rules of every level let it in and the answer out.',
    effect: 'the internet reaches hosts',
    leaving: null,
    entering: true,
    foundBy: [checkFromInternet],
    mended: 'by-stopping',
  },
  'in-round-firewall': {
    family: 'leak',
    anchors: ['subnets'],
    severities: ['high'],
    about: 'Traffic from outside comes in without passing the firewall that the way out passes.',
    effect: 'traffic from the internet comes in past a firewall',
    leaving: null,
    entering: true,
    foundBy: [checkFromInternet],
    mended: 'by-stopping',
  },
} as const satisfies Record<string, FindingRecord>
