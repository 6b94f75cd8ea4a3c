/** How large an estate for measuring is. The named sizes are those of design part 6. */
export interface Size {
  readonly networks: number
  readonly subnetsPerNetwork: number
  readonly tablesPerNetwork: number
  readonly routesPerTable: number
  readonly rulesPerSubnet: number
}

const shape = { subnetsPerNetwork: 20, tablesPerNetwork: 6, routesPerTable: 50, rulesPerSubnet: 20 }

export const SIZES = {
  S: { ...shape, networks: 3, subnetsPerNetwork: 10, tablesPerNetwork: 3 },
  M: { ...shape, networks: 50 },
  L: { ...shape, networks: 500 },
  XL: { ...shape, networks: 5000, tablesPerNetwork: 6 },
} as const satisfies Record<string, Size>

export type SizeName = keyof typeof SIZES

/** Of a hundred places where a fault can be planted this many have one. */
export const FAULT_PERCENT = 1

/**
 * Networks have a /21 each out of 10.0.0.0/8, subnets a /26 each in it: room for 8,000 networks of
 * 32 subnets.
 */
export function networkRange(network: number): string {
  return `10.${network >> 5}.${(network & 31) << 3}.0/21`
}

export function subnetAddress(network: number, subnet: number, host: number): string {
  const offset = subnet * 64 + host
  return `10.${network >> 5}.${((network & 31) << 3) + (offset >> 8)}.${offset & 255}`
}

export const subnetRange = (network: number, subnet: number): string =>
  `${subnetAddress(network, subnet, 0)}/26`
export const networkRange6 = (network: number): string =>
  `2001:db8:${network.toString(16)}::/56`.replace(':0::', '::')
export const subnetRange6 = (network: number, subnet: number): string =>
  `2001:db8:${network.toString(16)}:${(subnet + 1).toString(16)}::/64`
export const address6 = (network: number, subnet: number, host: number): string =>
  `2001:db8:${network.toString(16)}:${(subnet + 1).toString(16)}::${host.toString(16)}`

/**
 * Public addresses out of the documentation ranges are soon used up; these come from one made up
 * for measuring only.
 */
export const publicAddress = (number: number): string =>
  `193.${number >> 16}.${(number >> 8) & 255}.${number & 255}`

export const REGIONS = ['north', 'south', 'east', 'west'] as const
export const ZONES = 3
export const zonesOf = (region: string): string[] =>
  Array.from({ length: ZONES }, (_, z) => `${region}-${z + 1}`)
