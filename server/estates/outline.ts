import { formatAddress, formatPrefix, MAP_SECTIONS, membersOf, type Model } from '@salt-trail/core'

export interface Outline {
  readonly name: string
  readonly counts: Record<string, number>
  readonly networks: readonly {
    id: string
    title: string | null
    ranges: string[]
    behaviour: string
    region: string | null
  }[]
  readonly subnets: readonly {
    id: string
    title: string | null
    network: string
    ranges: string[]
    zone: string | null
    region: string | null
    role: string | null
    table: string | null
    ownTable: boolean
  }[]
  /** What the columns of the matrix open into. */
  readonly members: {
    readonly services: readonly string[]
    readonly sites: readonly string[]
    readonly otherNetworks: readonly string[]
  }
  /** Everything a question can begin or end at, for completion. */
  readonly ends: readonly { end: string; id: string; about: string; home?: string }[]
}

export function outlineOf(model: Model): Outline {
  const { estate, index } = model
  const counts: Record<string, number> = {}
  for (const section of MAP_SECTIONS)
    if (index[section].size > 0) counts[section] = index[section].size
  counts.routes = [...estate.routeTables.values()].reduce(
    (sum, table) => sum + (table.routes?.length ?? 0),
    0,
  )
  counts.rules = [...estate.ruleSets.values()].reduce(
    (sum, set) => sum + (set.rules?.length ?? 0),
    estate.estateRules.length,
  )
  const subnets = model.subnets.filter((subnet) => index.subnets.has(subnet.id))
  const networkId = (number: number): string => model.networks[number]?.id ?? ''
  const outside = (section: 'sites' | 'parties' | 'services', kind: string) =>
    [...index[section].keys()].map((id) => ({
      end: `${kind}:${id}`,
      id,
      about: [kind, ...(estate[section].get(id)?.ranges ?? [])].join(' '),
    }))
  return {
    name: estate.name,
    counts,
    networks: model.networks
      .filter((network) => index.networks.has(network.id))
      .map((network) => ({
        id: network.id,
        title: estate.networks.get(network.id)?.title ?? null,
        ranges: network.ranges.map(formatPrefix),
        behaviour: network.behaviour,
        region: network.region,
      })),
    subnets: subnets.map((subnet) => ({
      id: subnet.id,
      title: estate.subnets.get(subnet.id)?.title ?? null,
      network: networkId(subnet.network),
      ranges: subnet.ranges.map(formatPrefix),
      zone: subnet.zone,
      region: subnet.region,
      role: subnet.role,
      table: subnet.table < 0 ? null : model.tables[subnet.table]!.id,
      ownTable: subnet.ownTable,
    })),
    members: {
      services: membersOf(model, 'services'),
      sites: membersOf(model, 'sites'),
      otherNetworks: membersOf(model, 'otherNetworks'),
    },
    ends: [
      { end: 'internet', id: 'internet', about: 'any public address outside' },
      ...model.interfaces
        .filter((one) => index.interfaces.has(one.id) && one.subnet >= 0)
        .map((one) => ({
          end: `interface:${one.id}`,
          id: one.id,
          home: model.subnets[one.subnet]!.id,
          about: [
            'host',
            ...one.addresses.map(formatAddress),
            model.subnets[one.subnet]!.id,
            ...Object.entries(one.source.tags ?? {}).map(([k, v]) => `${k}=${v}`),
          ].join(' '),
        })),
      ...subnets.map((subnet) => ({
        end: `subnet:${subnet.id}`,
        id: subnet.id,
        about: ['subnet', ...subnet.ranges.map(formatPrefix), networkId(subnet.network)].join(' '),
      })),
      ...outside('sites', 'site'),
      ...outside('parties', 'party'),
      ...outside('services', 'service'),
    ],
  }
}
