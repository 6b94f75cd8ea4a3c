import type { MapSection } from '../format/schema/document'

/** What objects of a section are called, one and several. */
export const SECTION_WORDS: Readonly<Record<MapSection, readonly [one: string, several: string]>> =
  {
    regions: ['region', 'regions'],
    networks: ['network', 'networks'],
    subnets: ['subnet', 'subnets'],
    interfaces: ['interface', 'interfaces'],
    routeTables: ['route table', 'route tables'],
    gateways: ['gateway', 'gateways'],
    nats: ['NAT', 'NATs'],
    endpoints: ['endpoint', 'endpoints'],
    frontends: ['frontend', 'frontends'],
    peerings: ['peering', 'peerings'],
    firewalls: ['firewall', 'firewalls'],
    transits: ['transit', 'transits'],
    sites: ['site', 'sites'],
    parties: ['party', 'parties'],
    services: ['service', 'services'],
    ruleSets: ['rule set', 'rule sets'],
    prefixLists: ['prefix list', 'prefix lists'],
    publicAddresses: ['public address', 'public addresses'],
    nameZones: ['name zone', 'name zones'],
    groups: ['group', 'groups'],
    plannedRanges: ['planned range', 'planned ranges'],
    expectations: ['expectation', 'expectations'],
  }
