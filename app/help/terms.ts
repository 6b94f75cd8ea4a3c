/** The words on screen, each explained in one or two sentences with the rule behind it. */
export const TERMS = {
  internet: {
    word: 'Internet',
    says: 'Public addresses that no network, site, service or list of this estate has. The cell says by what traffic leaves for them first.',
  },
  services: {
    word: 'Services',
    says: 'The provider’s own services on their public ranges: by an endpoint or a switch where a network has one, else over the internet.',
  },
  sites: {
    word: 'Sites',
    says: 'Places outside the cloud behind private gateways, such as offices and data centres.',
  },
  otherNetworks: {
    word: 'Other networks',
    says: 'Subnets of this estate’s other networks: over peerings and transits, as far as routes lead there.',
  },
  sameNetwork: {
    word: 'Same network',
    says: 'Other subnets of the same network. They are reached by the built-in local route, unless a table steers more specific ranges elsewhere.',
  },
  leavesBy: {
    word: 'leaves by',
    says: 'The last thing of the estate that a packet passes: a gateway, a peering’s far side, or the built-in door of a default-open network.',
  },
  seenAs: {
    word: 'seen as',
    says: 'The source address that the far side sees. A translator, or a public address of the host’s own, takes the place of its private one.',
  },
  winner: {
    word: 'winner',
    says: 'The route that decides. The longest prefix that covers the destination wins; among equals the table’s own come before learned ones.',
  },
  shadowed: {
    word: 'shadowed',
    says: 'Routes that cover these destinations too and lost: a longer prefix, or one that comes before them, won.',
  },
  origin: {
    word: 'origin',
    says: 'Where a route is from: written in the table, built in with the network, or learned from a gateway, peering or transit.',
  },
  role: {
    word: 'declared role',
    says: 'What the subnet is declared to be in the estate. It decides nothing; findings compare it with what the routes do.',
  },
  evidence: {
    word: 'evidence',
    says: 'What decided at this place: every route that was a candidate, the rules in the order they were asked, or the address that was chosen.',
  },
  accepted: {
    word: 'accepted',
    says: 'Somebody lives with this finding and said why. It stays visible, does not count, and comes back when its day has passed.',
  },
  fingerprint: {
    word: 'fingerprint',
    says: 'The same flaw keeps it from revision to revision, so that accepting it lasts and coming and going can be told.',
  },
  'must never-reach': {
    word: 'never-reach',
    says: 'Holds when no packet of this kind is delivered, answered or not.',
  },
  'must reach': {
    word: 'reach',
    says: 'Holds when every source reaches every destination and is answered.',
  },
  'must pass': {
    word: 'pass',
    says: 'Holds when every delivered packet goes through one of the named firewalls, in both directions.',
  },
  'must leave-by': {
    word: 'leave-by',
    says: 'Holds when every packet that leaves does so by one of the named objects.',
  },
  'must appear-as': {
    word: 'appear-as',
    says: 'Holds when the far side sees only the named addresses.',
  },
  'must only-from': {
    word: 'only-from',
    says: 'Holds when nobody but the named sources is delivered.',
  },
  empty: {
    word: 'empty',
    says: 'What it names matches nothing there is, so it says nothing. That is not the same as holding.',
  },
  waysIn: {
    word: 'ways in',
    says: 'Who can reach a host after routes, translators, firewalls and every level of rules, proved over all packets.',
  },
  neverMatches: {
    word: 'never matches',
    says: 'A rule that no packet can reach: those before it take everything, or nothing it names exists.',
  },
  lasts: {
    word: 'lasts',
    says: 'Whether the address stays: reserved for good, kept with what gives it, draining, or able to change by itself.',
  },
  allowlist: {
    word: 'allowlist',
    says: 'The addresses from which the party lets us in, as the estate notes them.',
  },
  usable: {
    word: 'usable addresses',
    says: 'Addresses hosts can have: of an IPv4 subnet all but the first four and the last.',
  },
} as const
export type Term = keyof typeof TERMS
