import type { Objects } from '~/api/answers'

/** The section whose ids a key of the format names, by the key. */
const SECTION_OF: Readonly<Record<string, string>> = {
  network: 'networks',
  linkedTo: 'networks',
  region: 'regions',
  routeTable: 'routeTables',
  defaultRouteTable: 'routeTables',
  boundary: 'ruleSets',
  localRules: 'ruleSets',
  ruleSets: 'ruleSets',
  ruleSet: 'ruleSets',
  subnet: 'subnets',
  subnets: 'subnets',
  site: 'sites',
  gateway: 'gateways',
  nat: 'nats',
  peering: 'peerings',
  transit: 'transits',
  endpoint: 'endpoints',
  interface: 'interfaces',
  interfaces: 'interfaces',
  targets: 'interfaces',
  service: 'services',
  privateServices: 'services',
  prefixList: 'prefixLists',
  publicAddress: 'publicAddresses',
}

/** The public addresses of a NAT are such; addresses of an interface are not. */
const SECTION_IN: Readonly<Record<string, Readonly<Record<string, string>>>> = {
  nats: { addresses: 'publicAddresses', draining: 'publicAddresses' },
}

/** What can stand under a key of an object: ids of the estate; null where it is none. */
export function choicesFor(section: string, key: string, objects: Objects): string[] | null {
  if (key === 'zone') return [...new Set(objects.zones.map(({ zone }) => zone))]
  const named = SECTION_IN[section]?.[key] ?? SECTION_OF[key]
  return objects.sections.find((one) => one.section === named)?.ids ?? null
}
