import {
  differencesOf,
  formatAddress,
  formatPrefix,
  hostsIn,
  likenessOf,
  MAP_SECTIONS,
  membersOf,
  type Likeness,
  type Model,
} from '@salt-trail/core'

export interface Outline {
  readonly name: string
  readonly counts: Record<string, number>
  readonly networks: readonly {
    id: string
    title: string | null
    ranges: string[]
    behaviour: string
    region: string | null
    /** How many hosts are up and have an address. */
    hosts: number
    /** Networks with the same number are alike but for names and ranges; −1 where it is not known. */
    like: number
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
    /** Subnets of one network with the same number are alike but for names and ranges. */
    like: number
  }[]
  /** By their number: what tells networks, and subnets, from the many they are otherwise like. */
  readonly unlike: {
    readonly networks: Readonly<Record<number, readonly string[]>>
    readonly subnets: Readonly<Record<number, readonly string[]>>
  }
  /** What the columns of the matrix open into. */
  readonly members: {
    readonly services: readonly string[]
    readonly sites: readonly string[]
    readonly otherNetworks: readonly string[]
  }
  /** Everything a question can begin or end at, for completion. */
  readonly ends: readonly { end: string; id: string; about: string; home?: string }[]
}

/**
 * What views and completion need of a model. Without likeness, which costs two passes over the
 * estate, nothing is said to be alike.
 */
export function outlineOf(model: Model, { withLikeness = true } = {}): Outline {
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
  const networkLikes = withLikeness ? likenessOf(model, 'networks') : null
  const subnetLikes = withLikeness ? likenessOf(model, 'subnets') : null
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
        hosts: hostsIn(model, network.index).length,
        like: networkLikes?.classOf.get(network.index) ?? -1,
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
      like: subnetLikes?.classOf.get(subnet.index) ?? -1,
    })),
    unlike: { networks: unlikeTexts(networkLikes), subnets: unlikeTexts(subnetLikes) },
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

/** What tells the objects of each class from those they are otherwise like, of the first of them. */
function unlikeTexts(likes: Likeness | null): Record<number, readonly string[]> {
  const texts: Record<number, readonly string[]> = {}
  for (const [place, { members, unlike }] of likes?.classes.entries() ?? [])
    if (unlike !== null) texts[place] = differencesOf(unlike, members[0]!).map(({ says }) => says)
  return texts
}
