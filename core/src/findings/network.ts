import type { Estate } from '../format/estate'
import { splitRef } from '../format/ref'
import type { MapSection } from '../format/schema/document'
import type { Finding } from './finding'

/** A section whose objects findings may be anchored at. Regions are names, not objects. */
export type AnchorSection = MapSection | 'regions' | 'estate'

type NetworkOf = (estate: Estate, id: string) => string | null | undefined

const inNoNetwork: NetworkOf = () => null

/** By section: the network an object lies in; null or undefined where it lies in none. */
const NETWORK_OF: Record<AnchorSection, NetworkOf> = {
  networks: (_, id) => id,
  subnets: ({ subnets }, id) => subnets.get(id)?.network,
  interfaces: (estate, id) => NETWORK_OF.subnets(estate, estate.interfaces.get(id)?.subnet ?? ''),
  routeTables: ({ routeTables }, id) => routeTables.get(id)?.network,
  gateways: ({ gateways }, id) => gateways.get(id)?.network,
  nats: ({ nats }, id) => nats.get(id)?.network,
  endpoints: ({ endpoints }, id) => endpoints.get(id)?.network,
  frontends: ({ frontends }, id) => frontends.get(id)?.network,
  peerings: ({ peerings }, id) => peerings.get(id)?.a.network,
  firewalls: (estate, id) => {
    const firewall = estate.firewalls.get(id)
    if (firewall?.style !== 'routed') return firewall?.network
    const [first] = Object.values(firewall.interfaces ?? {})
    return first === undefined ? null : NETWORK_OF.interfaces(estate, first)
  },
  transits: inNoNetwork,
  sites: inNoNetwork,
  parties: inNoNetwork,
  services: inNoNetwork,
  ruleSets: inNoNetwork,
  prefixLists: inNoNetwork,
  publicAddresses: inNoNetwork,
  nameZones: inNoNetwork,
  groups: inNoNetwork,
  plannedRanges: inNoNetwork,
  expectations: inNoNetwork,
  regions: inNoNetwork,
  estate: inNoNetwork,
}

/**
 * The network a finding lies in: that of its anchor, else of the first object concerned that has
 * one; null where none has.
 */
export function networkOfFinding(
  estate: Estate,
  { anchor, objects }: Pick<Finding, 'anchor' | 'objects'>,
): string | null {
  for (const ref of [anchor, ...objects]) {
    const [section, id] = splitRef(ref)
    const network = NETWORK_OF[section as AnchorSection]?.(estate, id)
    if (network != null) return network
  }
  return null
}

/** The networks an object belongs to: both of a peering's, none where it lies in none. */
export function networksOfObject(estate: Estate, ref: string): readonly string[] {
  const [section, id] = splitRef(ref)
  if (section === 'peerings') {
    const peering = estate.peerings.get(id)
    return peering ? [peering.a.network, peering.b.network] : []
  }
  const network = NETWORK_OF[section as AnchorSection]?.(estate, id)
  return network == null ? [] : [network]
}
