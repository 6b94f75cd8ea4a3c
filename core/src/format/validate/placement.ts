import type { Checking } from './checking'

/** The sections whose ids a question may name, so that one id in two of them is ambiguous. */
const NAMED_SECTIONS = [
  'regions',
  'networks',
  'subnets',
  'interfaces',
  'routeTables',
  'gateways',
  'nats',
  'peerings',
  'transits',
  'firewalls',
  'services',
  'endpoints',
  'prefixLists',
  'sites',
  'parties',
  'ruleSets',
  'frontends',
  'nameZones',
  'groups',
  'plannedRanges',
  'expectations',
] as const

/** Regions, zones, and whose tables they are. */
export function checkPlacement(checking: Checking): void {
  checkSubnets(checking)
  for (const [id, network] of checking.estate.networks)
    checkTable(checking, { section: 'networks', id }, [
      'defaultRouteTable',
      network.defaultRouteTable,
      id,
    ])
  warnOfRepeatedIds(checking)
}

function checkSubnets(checking: Checking): void {
  const { estate, error } = checking
  const regionOfZone = new Map<string, string[]>()
  for (const [id, region] of estate.regions) {
    for (const zone of region.zones ?? [])
      regionOfZone.set(zone, [...(regionOfZone.get(zone) ?? []), id])
  }

  for (const [id, subnet] of estate.subnets) {
    const at = { section: 'subnets', id } as const
    if (subnet.zone !== undefined && subnet.region !== undefined) {
      error(
        { ...at, path: ['region'], part: 'key' },
        'zone-and-region',
        'a subnet lies in one zone or spans its region; give "zone" or "region", not both',
      )
    }
    const network = estate.networks.get(subnet.network)
    const regions =
      subnet.region !== undefined
        ? [subnet.region]
        : subnet.zone !== undefined
          ? (regionOfZone.get(subnet.zone) ?? [])
          : []
    if (network?.region !== undefined && regions.length > 0 && !regions.includes(network.region)) {
      const key = subnet.region !== undefined ? 'region' : 'zone'
      error(
        { ...at, path: [key] },
        'subnet-other-region',
        `${key}: "${subnet[key]}" is in ${regions.join(' and ')}, but its network ${subnet.network} is in ${network.region}`,
      )
    }
    checkTable(checking, at, ['routeTable', subnet.routeTable, subnet.network])
  }
}

/** A table that a subnet or a network names by a key must belong to the network it is for. */
function checkTable(
  { estate, error }: Checking,
  at: { section: 'subnets' | 'networks'; id: string },
  [key, tableId, network]: readonly [key: string, table: string | undefined, network: string],
): void {
  const table = tableId === undefined ? undefined : estate.routeTables.get(tableId)
  if (table?.network === undefined || table.network === network) return
  const own = [...estate.routeTables].filter(([, t]) => t.network === network).map(([name]) => name)
  const choice =
    own.length > 0
      ? `; tables of ${network}: ${own.slice(0, 5).join(', ')}${own.length > 5 ? ' …' : ''}`
      : ''
  error(
    { ...at, path: [key] },
    'table-of-other-network',
    `${key}: "${tableId}" belongs to the network ${table.network}${choice}`,
  )
}

function warnOfRepeatedIds({ estate, declared, warning }: Checking): void {
  const first = new Map<string, string>()
  for (const section of NAMED_SECTIONS) {
    for (const id of (estate[section] as ReadonlyMap<string, unknown>).keys()) {
      const before = first.get(id)
      if (before === undefined) first.set(id, section)
      else if (declared(section).has(id)) {
        warning(
          { section, id },
          'id-in-two-sections',
          `the id "${id}" is used in ${before} too; in a question it must be written with its kind`,
        )
      }
    }
  }
}
