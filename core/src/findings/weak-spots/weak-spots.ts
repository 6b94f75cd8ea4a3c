import type { FindingRecord } from '../record'
import { checkNats } from '../nats'
import { checkRoutes } from '../routes'
import { checkIdle } from './idle'
import { checkNameServers } from './name-servers'
import { checkPartners } from './partners'
import { checkQuotas } from './quotas'
import { checkDefaultTables, checkRoles } from './roles'
import { checkIdleSets, checkRules, checkWithoutRules } from './rules'
import { checkTags } from './tags'

/** It works, but not as it seems. One record a finding. */
export const WEAK_SPOTS = {
  'odd-role': {
    family: 'weak',
    severities: ['medium'],
    about:
      'The subnet’s declared role and its routes contradict each other: public without a way in, or private with one.',
    leaving: 'internet',
    entering: false,
    foundBy: [checkRoles],
    mended: 'by-its-check',
  },
  'odd-default-table': {
    family: 'weak',
    severities: ['medium'],
    about:
      'The subnet has no table of its own and relies on its network’s default, while its neighbours of the same role have one.',
    leaving: null,
    entering: false,
    foundBy: [checkDefaultTables],
    mended: 'by-its-check',
  },
  'odd-steers-nothing': {
    family: 'weak',
    severities: ['medium'],
    about:
      'A route to a firewall that no packet uses, or that covers only the firewall’s own subnet.',
    leaving: null,
    entering: false,
    foundBy: [checkRoutes],
    mended: 'by-its-check',
  },
  'odd-shared-inspection-subnet': {
    family: 'weak',
    severities: ['medium'],
    about:
      'A host stands in a firewall’s subnet. What it sends does not pass the firewall beside it.',
    leaving: null,
    entering: false,
    foundBy: [checkRoles],
    mended: 'never',
  },
  'odd-crosses-zone': {
    family: 'weak',
    severities: ['low'],
    about:
      'The way out depends on something in another zone: an outage there takes this subnet’s way out down, and traffic between zones is charged.',
    leaving: 'internet',
    entering: false,
    foundBy: [checkRoles],
    mended: 'by-its-check',
  },
  'odd-changing-address': {
    family: 'weak',
    severities: ['medium'],
    about: 'A partner that allows us by address sees one that may change by itself.',
    leaving: null,
    entering: false,
    foundBy: [checkPartners],
    mended: 'by-its-check',
  },
  'odd-not-allowlisted': {
    family: 'weak',
    severities: ['medium'],
    about: 'A partner sees us come from an address that its allowlist lacks.',
    leaving: null,
    entering: false,
    foundBy: [checkPartners],
    mended: 'by-its-check',
  },
  'odd-nat-capacity': {
    family: 'weak',
    severities: ['medium'],
    about:
      'So many hosts share the translator’s addresses that its source ports can run out; each address offers 64,512.',
    leaving: null,
    entering: false,
    foundBy: [checkNats],
    mended: 'by-its-check',
  },
  'odd-quota': {
    family: 'weak',
    severities: ['medium', 'low'],
    about: 'A quota is passed, or nine tenths of it are used.',
    leaving: null,
    entering: false,
    foundBy: [checkQuotas],
    mended: 'never',
  },
  'odd-missing-tag': {
    family: 'weak',
    severities: ['low'],
    about: 'An object lacks a tag that the organisation requires.',
    leaving: null,
    entering: false,
    foundBy: [checkTags],
    mended: 'by-its-check',
  },
  'odd-name-server': {
    family: 'weak',
    severities: ['medium'],
    about: 'A subnet cannot reach its network’s own name server on port 53.',
    leaving: null,
    entering: false,
    foundBy: [checkNameServers],
    mended: 'by-leading',
  },
  'odd-shadowed-route': {
    family: 'weak',
    severities: ['low'],
    about: 'A route that never wins: another of the same destination always comes before it.',
    leaving: null,
    entering: false,
    foundBy: [checkRoutes],
    mended: 'by-its-check',
  },
  'odd-shadowed-rule': {
    family: 'weak',
    severities: ['medium', 'low'],
    about: 'A rule that never decides: those asked before it take every packet it would match.',
    leaving: null,
    entering: false,
    foundBy: [checkRules],
    mended: 'by-its-check',
  },
  'odd-no-rules': {
    family: 'weak',
    severities: ['medium', 'low'],
    about:
      'No rule set holds for this interface at any level, so everything that routes bring reaches it.',
    leaving: null,
    entering: false,
    foundBy: [checkWithoutRules],
    mended: 'by-its-check',
  },
  'idle-table': {
    family: 'weak',
    severities: ['note'],
    about: 'No subnet, gateway or transit uses this table.',
    leaving: null,
    entering: false,
    foundBy: [checkIdle],
    mended: 'by-its-check',
  },
  'idle-gateway': {
    family: 'weak',
    severities: ['note'],
    about: 'No route leads to this gateway.',
    leaving: null,
    entering: false,
    foundBy: [checkIdle],
    mended: 'by-its-check',
  },
  'idle-nat': {
    family: 'weak',
    severities: ['low', 'note'],
    about: 'No route leads to this translator.',
    leaving: null,
    entering: false,
    foundBy: [checkIdle],
    mended: 'by-its-check',
  },
  'idle-address': {
    family: 'weak',
    severities: ['low', 'note'],
    about: 'A reserved public address that nobody has; it is charged all the same.',
    leaving: null,
    entering: false,
    foundBy: [checkIdle],
    mended: 'by-its-check',
  },
  'idle-rule-set': {
    family: 'weak',
    severities: ['note'],
    about: 'No interface or subnet has this rule set.',
    leaving: null,
    entering: false,
    foundBy: [checkIdleSets],
    mended: 'by-its-check',
  },
  'idle-network': {
    family: 'weak',
    severities: ['note'],
    about: 'A network without subnets.',
    leaving: null,
    entering: false,
    foundBy: [checkIdle],
    mended: 'by-its-check',
  },
  'idle-peering': {
    family: 'weak',
    severities: ['note'],
    about: 'No route leads over this peering.',
    leaving: null,
    entering: false,
    foundBy: [checkIdle],
    mended: 'by-its-check',
  },
  'idle-endpoint': {
    family: 'weak',
    severities: ['low', 'note'],
    about: 'No route leads to this endpoint.',
    leaving: null,
    entering: false,
    foundBy: [checkIdle],
    mended: 'by-its-check',
  },
} as const satisfies Record<string, FindingRecord>
