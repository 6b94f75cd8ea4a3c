import type { Estate, Network, NetworkInterface, Subnet } from '../../src/format/estate'
import { bitsOf, coveredBy, isPublic, prefixBits, type Bits } from './bits'

/** Plain questions about an estate, each answered by looking through the whole of it. */
type Stateful = { readonly state?: string }

export const up = (object: Stateful | undefined): boolean =>
  object !== undefined && (object.state === undefined || object.state === 'up')
export const there = <T extends Stateful>(object: T | undefined): T | undefined =>
  object?.state === 'deleted' ? undefined : object

export const subnetRanges = (subnet: Subnet): string[] => [
  ...subnet.ranges,
  ...Object.values(subnet.namedRanges ?? {}).flat(),
]

export function subnetsOf(estate: Estate, network: string): [string, Subnet][] {
  return [...estate.subnets].filter(
    ([id, subnet]) => subnet.network === network && subnetThere(estate, id),
  )
}

/** A subnet goes with its network. */
export const subnetThere = (estate: Estate, id: string | undefined): boolean =>
  id !== undefined &&
  there(estate.subnets.get(id)) !== undefined &&
  there(estate.networks.get(networkOf(estate, id))) !== undefined

/** The subnet of a network an address lies in. */
export function subnetAt(estate: Estate, network: string, address: Bits): string | undefined {
  return subnetsOf(estate, network).find(([, subnet]) =>
    coveredBy(subnetRanges(subnet), address),
  )?.[0]
}

export const networkOf = (estate: Estate, subnet: string): string =>
  estate.subnets.get(subnet)!.network
export const regionOf = (estate: Estate, subnet: string): string | undefined => {
  const object = estate.subnets.get(subnet)!
  const byZone = [...estate.regions].find(
    ([, region]) => object.zone !== undefined && region.zones?.includes(object.zone),
  )?.[0]
  return object.region ?? byZone ?? estate.networks.get(object.network)?.region
}

/** An interface, its subnet and its network are up. */
export function interfaceUp(estate: Estate, id: string): boolean {
  const one = estate.interfaces.get(id)
  return up(one) && one!.subnet !== undefined && subnetUp(estate, one!.subnet)
}
export const subnetUp = (estate: Estate, id: string): boolean =>
  up(estate.subnets.get(id)) && up(estate.networks.get(networkOf(estate, id)))

export const hasAddress = (one: NetworkInterface, address: Bits): boolean =>
  (one.addresses ?? []).some((text) => bitsOf(text) === address)

/** The interface of a network that has an address. */
export function interfaceAt(estate: Estate, network: string, address: Bits): string | undefined {
  for (const [id, one] of estate.interfaces) {
    if (
      there(one) &&
      subnetThere(estate, one.subnet) &&
      networkOf(estate, one.subnet!) === network &&
      hasAddress(one, address)
    )
      return id
  }
  return undefined
}

export const frontendAt = (estate: Estate, network: string, address: Bits): string | undefined =>
  [...estate.frontends].find(
    ([, one]) =>
      there(one) &&
      one.network === network &&
      one.privateAddresses?.some((text) => bitsOf(text) === address),
  )?.[0]

/** The private NAT of a network that has an address. */
export const natAt = (estate: Estate, network: string, address: Bits): string | undefined =>
  [...estate.nats].find(
    ([, nat]) =>
      there(nat) &&
      nat.network === network &&
      nat.kind === 'private' &&
      nat.addresses?.some((text) => bitsOf(text) === address),
  )?.[0]

export const inNetwork = (network: Network | undefined, address: Bits): boolean =>
  coveredBy(network?.ranges, address)
export const liveNetworks = (estate: Estate): [string, Network][] =>
  [...estate.networks].filter(([, network]) => there(network))

/** `internet`: every public address that is in no network's ranges. */
export const isInternet = (estate: Estate, address: Bits): boolean =>
  isPublic(address) && !liveNetworks(estate).some(([, network]) => inNetwork(network, address))

/** The prefixes of a destination: its own, those of a list, or those of a service. */
export function prefixesOf(
  estate: Estate,
  to: string | { prefixList?: string; service?: string },
): Bits[] {
  if (typeof to === 'string') return [prefixBits(to)]
  const ranges =
    to.prefixList !== undefined
      ? there(estate.prefixLists.get(to.prefixList))?.ranges
      : there(estate.services.get(to.service!))?.ranges
  return (ranges ?? []).map(prefixBits)
}

/** The tags of something in a subnet, with those of its subnet and its network. */
export function tagsAt(estate: Estate, subnet: string, id: string | null): Record<string, string> {
  const own = id === null ? undefined : estate.interfaces.get(id)?.tags
  const object = estate.subnets.get(subnet)!
  return { ...estate.networks.get(object.network)?.tags, ...object.tags, ...own }
}

/** The side of a firewall an interface is. */
export function firewallAt(
  estate: Estate,
  id: string,
): { firewall: string; label: string } | undefined {
  for (const [firewall, object] of estate.firewalls) {
    if (!there(object) || object.style !== 'routed') continue
    const side = Object.entries(object.interfaces ?? {}).find(([, one]) => one === id)
    if (side) return { firewall, label: side[0] }
  }
  return undefined
}

export const firstById = <T>(
  entries: readonly (readonly [string, T])[],
): readonly [string, T] | undefined => [...entries].sort(([a], [b]) => (a < b ? -1 : 1))[0]
