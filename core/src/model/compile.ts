import { addressOf, prefixOf, type Prefix } from '../address/prefix'
import { prefixTable, type PrefixEntry } from '../address/prefix-table'
import { PUBLIC_SPACE } from '../address/public'
import { rangeSetOf, subtractRanges } from '../address/ranges'
import type { Address } from '../address/address'
import type { Estate } from '../format/estate'
import { MAP_SECTIONS, type MapSection } from '../format/schema/document'
import { compileFrontend } from './frontends'
import { compileFirewall, endpointInterfaces, firewallSides } from './firewalls'
import { learnableRoutes } from './learned'
import type { Compiled, FrontendModel, InterfaceModel, Model, NatModel, NetworkModel, Owner, RouteModel, SubnetModel, TableModel } from './model'
import { builtInRoute, openDefaults, tableEntries } from './routes'

const none: readonly never[] = []

/**
 * Compiles an estate that passed validation into its immutable, indexed form. Does not fail: what
 * refers to nothing is kept as missing.
 */
export function compile(estate: Estate): Model {
  const index = indexOf(estate)
  const of = (section: MapSection, id: string | undefined): number => (id === undefined ? -1 : (index[section].get(id) ?? -1))
  const all = (section: MapSection, ids: readonly string[] | undefined): number[] => (ids ?? []).map((id) => of(section, id)).filter((i) => i >= 0)

  const networkUp = new Map([...estate.networks].map(([id, n]) => [id, isUp(n)]))
  const subnetUp = (id: string | undefined): boolean => {
    const subnet = id === undefined ? undefined : estate.subnets.get(id)
    return subnet !== undefined && isUp(subnet) && networkUp.get(subnet.network) === true
  }

  const interfaces = mapSection(estate, 'interfaces', (source, base): InterfaceModel => ({
    ...base,
    up: base.up && subnetUp(source.subnet),
    subnet: of('subnets', source.subnet),
    addresses: (source.addresses ?? []).map(addressOf),
    publicAddress: source.publicAddress === undefined ? null : addressOf(source.publicAddress),
    host: source.host ?? base.id,
    ruleSets: all('ruleSets', source.ruleSets),
    localRules: of('ruleSets', source.localRules),
    forwards: source.forwards ?? false,
    source,
  }))
  const tables = mapSection(estate, 'routeTables', (source, base): TableModel => ({
    ...base,
    network: of('networks', source.network),
    routes: prefixTable(base.up ? (source.routes ?? []).flatMap((route, entry) => tableEntries(estate, index, base.index, route, entry)) : []),
  }))
  const nats = mapSection(estate, 'nats', (source, base): NatModel => ({
    ...base,
    up: base.up && (source.placement?.subnet === undefined || subnetUp(source.placement.subnet)),
    kind: source.kind ?? 'public',
    network: of('networks', source.network),
    subnet: of('subnets', source.placement?.subnet),
    region: source.placement?.region ?? null,
    addresses: (source.addresses ?? []).map(addressOf),
    rules: [...(source.rules ?? [])]
      .sort((a, b) => a.order - b.order)
      .map((rule) => ({ order: rule.order, to: rangeSetOf(rule.to.map(prefixOf)), use: rule.use.map(addressOf) })),
    draining: new Set((source.draining ?? []).map(addressOf)),
    source,
  }))

  const firewalls = mapSection(estate, 'firewalls', (source, base) => compileFirewall(index, source, base))
  const interfacesOf = groupBy(interfaces, (one) => one.subnet)
  const subnets = compileSubnets(estate, index, interfacesOf)
  const subnetsOf = groupBy(
    subnets.filter((s) => index.subnets.has(s.id)),
    (s) => s.network,
  )
  const frontends = mapSection(estate, 'frontends', (source, base) => compileFrontend(index, subnets, source, base))
  const owners = compileOwners(estate, interfaces, nats, subnets, frontends)

  const networks = mapSection(estate, 'networks', (source, base): NetworkModel => {
    const own = (subnetsOf.get(base.index) ?? none) as SubnetModel[]
    return {
      ...base,
      behaviour: source.behaviour ?? 'table-routed',
      region: source.region ?? null,
      levels: source.levels ?? 'every',
      implicitEgress: source.implicitEgress ?? false,
      ranges: (source.ranges ?? []).map(prefixOf),
      defaultTable: of('routeTables', source.defaultRouteTable),
      subnets: own.map((s) => s.index),
      owners: owners.get(base.index) ?? new Map<Address, Owner>(),
      subnetSpace: prefixTable(own.flatMap((s) => s.allRanges.map((prefix) => ({ prefix, value: s.index })))),
      builtIn: prefixTable(builtInRoutes(estate, index, base.id)),
    }
  })
  const present = networks.filter((n) => isPresent(estate.networks.get(n.id)!))
  return {
    estate,
    networks,
    subnets,
    interfaces,
    tables,
    firewalls,
    frontends,
    firewallAt: firewallSides(firewalls),
    endpointAt: endpointInterfaces(estate, index),
    gateways: mapSection(estate, 'gateways', (source, base) => ({
      ...base,
      kind: source.kind,
      network: of('networks', source.network),
      table: of('routeTables', source.routeTable),
      site: source.site ?? null,
    })),
    nats,
    peerings: mapSection(estate, 'peerings', (source, base) => {
      const side = (s: typeof source.a) => ({
        network: of('networks', s.network),
        acceptsForwarded: s.acceptsForwarded ?? false,
        usesPeerGateway: s.usesPeerGateway ?? false,
        lendsGateway: s.lendsGateway ?? false,
      })
      const [a, b] = [side(source.a), side(source.b)]
      return { ...base, up: base.up && a.network >= 0 && b.network >= 0, a, b }
    }),
    transits: mapSection(estate, 'transits', (source, base) => ({ ...base, source })),
    index,
    publicOwners: publicOwners(estate, interfaces, nats, index),
    inventory: new Set([...estate.publicAddresses].filter(([, o]) => isPresent(o)).map(([text]) => addressOf(text))),
    networkSpace: prefixTable(present.flatMap((n) => n.ranges.map((prefix) => ({ prefix, value: n.index })))),
    subnetSpace: prefixTable(subnets.filter((s) => index.subnets.has(s.id)).flatMap((s) => s.allRanges.map((prefix) => ({ prefix, value: s.index })))),
    siteSpace: rangedSpace(estate.sites),
    serviceSpace: rangedSpace(estate.services),
    partySpace: rangedSpace(estate.parties),
    internetSpace: subtractRanges(PUBLIC_SPACE, rangeSetOf(present.flatMap((n) => n.ranges))),
  }
}

interface Stated {
  readonly state?: 'up' | 'pending' | 'down' | 'deleted'
}
const isUp = (object: Stated): boolean => (object.state ?? 'up') === 'up'
const isPresent = (object: Stated): boolean => object.state !== 'deleted'

function indexOf(estate: Estate): Model['index'] {
  const out: Record<string, ReadonlyMap<string, number>> = {}
  for (const section of MAP_SECTIONS) {
    const numbers = new Map<string, number>()
    let number = 0
    for (const [id, object] of estate[section] as ReadonlyMap<string, Stated>) {
      // What lies in a deleted network went with it.
      const gone = section === 'subnets' && estate.networks.get((object as { network?: string }).network ?? '')?.state === 'deleted'
      if (isPresent(object) && !gone) numbers.set(id, number)
      number++
    }
    out[section] = numbers
  }
  return out as Model['index']
}

function mapSection<S extends MapSection, T>(estate: Estate, section: S, make: (source: NonNullable<ReturnType<Estate[S]['get']>>, base: Compiled) => T): T[] {
  const out: T[] = []
  for (const [id, source] of estate[section] as ReadonlyMap<string, never>) {
    out.push(make(source, { index: out.length, id, ref: `${section}/${id}`, up: isUp(source) }))
  }
  return out
}

function compileSubnets(estate: Estate, index: Model['index'], interfacesOf: ReadonlyMap<number, readonly InterfaceModel[]>): SubnetModel[] {
  const regionOfZone = new Map([...estate.regions].flatMap(([id, region]) => (region.zones ?? []).map((zone) => [zone, id] as const)))
  const learnable = new Map<string, Map<string, PrefixEntry<RouteModel>[]>>()
  const learnedCache = new Map<string, SubnetModel['learned']>()
  const switchedCache = new Map<string, SubnetModel['switched']>()
  return mapSection(estate, 'subnets', (source, base): SubnetModel => {
    const network = estate.networks.get(source.network)
    // In a priority-routed network the table belongs to the network; a deleted table is no association.
    const own = network?.behaviour === 'priority-routed' ? undefined : index.routeTables.get(source.routeTable ?? '')
    const table = own ?? index.routeTables.get(network?.defaultRouteTable ?? '') ?? -1
    const ranges = source.ranges.map(prefixOf)
    const named = Object.values(source.namedRanges ?? {})
      .flat()
      .map(prefixOf)
    return {
      ...base,
      up: base.up && network !== undefined && isUp(network),
      network: index.networks.get(source.network) ?? -1,
      zone: source.zone ?? null,
      region: source.region ?? (source.zone === undefined ? (network?.region ?? null) : (regionOfZone.get(source.zone) ?? null)),
      ranges,
      allRanges: [...ranges, ...named],
      table,
      ownTable: own !== undefined,
      learned: learnedOf(source.network, table),
      switched: switchedOf(source.privateServices),
      boundary: index.ruleSets.get(source.boundary ?? '') ?? -1,
      ruleSets: (source.ruleSets ?? []).map((id) => index.ruleSets.get(id) ?? -1).filter((i) => i >= 0),
      interfaces: (interfacesOf.get(base.index) ?? none).map((one) => one.index),
      givesPublicAddresses: source.givesPublicAddresses ?? false,
      role: source.role ?? null,
    }
  })

  function learnedOf(networkId: string, table: number): SubnetModel['learned'] {
    const key = `${networkId} ${table}`
    const known = learnedCache.get(key)
    if (known) return known
    const source = table < 0 ? undefined : [...estate.routeTables.values()][table]
    const openWithoutTable = table < 0 && estate.networks.get(networkId)?.behaviour === 'default-open'
    const learn = openWithoutTable ? 'all' : source && isUp(source) ? (source.learn ?? 'none') : 'none'
    let entries: PrefixEntry<RouteModel>[] = []
    if (learn !== 'none') {
      if (!learnable.has(networkId)) learnable.set(networkId, learnableRoutes(estate, index, networkId))
      const routes = learnable.get(networkId)!
      entries = [...routes].filter(([from]) => learn === 'all' || learn.includes(from)).flatMap(([, list]) => list)
    }
    const built = prefixTable(entries)
    learnedCache.set(key, built)
    return built
  }

  function switchedOf(services: 'all' | readonly string[] | undefined): SubnetModel['switched'] {
    const ids = services === 'all' ? [...estate.services.keys()] : (services ?? [])
    const key = ids.join(' ')
    const known = switchedCache.get(key)
    if (known) return known
    const built = prefixTable(
      ids.flatMap((id) => {
        const service = estate.services.get(id)
        if (!service || !isUp(service)) return []
        return (service.ranges ?? []).map((text) => builtInRoute(prefixOf(text), { kind: 'service-switch', id, index: index.services.get(id) ?? -1 }))
      }),
    )
    switchedCache.set(key, built)
    return built
  }
}

/** The routes every subnet of a network has without anybody writing them (design part 3.1). */
function builtInRoutes(estate: Estate, index: Model['index'], id: string): PrefixEntry<RouteModel>[] {
  const network = estate.networks.get(id)!
  const behaviour = network.behaviour ?? 'table-routed'
  const rangesAt = (networkId: string): Prefix[] => {
    const other = estate.networks.get(networkId)
    if (!other || !isPresent(other)) return []
    if (behaviour !== 'priority-routed') return (other.ranges ?? []).map(prefixOf)
    return [...estate.subnets.values()]
      .filter((s) => s.network === networkId && isPresent(s))
      .flatMap((s) => [...s.ranges, ...Object.values(s.namedRanges ?? {}).flat()].map(prefixOf))
  }
  const out = rangesAt(id).map((prefix) => builtInRoute(prefix, { kind: 'local' }))
  if (behaviour === 'table-routed') return out
  for (const [peeringId, peering] of estate.peerings) {
    if (!isUp(peering)) continue
    const other = peering.a.network === id ? peering.b : peering.b.network === id ? peering.a : null
    if (!other) continue
    const target = { kind: 'peering', id: peeringId, index: index.peerings.get(peeringId) ?? -1 } as const
    out.push(...rangesAt(other.network).map((prefix) => builtInRoute(prefix, target)))
  }
  return behaviour === 'default-open' ? [...out, ...openDefaults()] : out
}

function compileOwners(
  estate: Estate,
  interfaces: readonly InterfaceModel[],
  nats: readonly NatModel[],
  subnets: readonly SubnetModel[],
  frontends: readonly FrontendModel[],
): Map<number, Map<Address, Owner>> {
  const owners = new Map<number, Map<Address, Owner>>()
  const put = (network: number, address: Address, owner: Owner): void => {
    if (network < 0) return
    const map = owners.get(network) ?? new Map<Address, Owner>()
    owners.set(network, map)
    if (!map.has(address)) map.set(address, owner)
  }
  for (const one of interfaces) {
    if (!isPresent(estate.interfaces.get(one.id)!) || one.subnet < 0) continue
    for (const address of one.addresses) put(subnets[one.subnet]!.network, address, { kind: 'interface', index: one.index })
  }
  for (const nat of nats) {
    if (nat.kind !== 'private' || !isPresent(estate.nats.get(nat.id)!)) continue
    for (const address of natAddresses(nat)) put(nat.network, address, { kind: 'nat', index: nat.index })
  }
  for (const frontend of frontends) {
    if (!isPresent(estate.frontends.get(frontend.id)!)) continue
    for (const address of frontend.addresses) put(frontend.network, address, { kind: 'frontend', index: frontend.index })
  }
  return owners
}

const natAddresses = (nat: NatModel): Address[] => [...nat.addresses, ...nat.rules.flatMap((rule) => rule.use)]

function publicOwners(estate: Estate, interfaces: readonly InterfaceModel[], nats: readonly NatModel[], index: Model['index']): Map<Address, Owner> {
  const out = new Map<Address, Owner>()
  for (const one of interfaces) {
    if (one.publicAddress !== null && index.interfaces.has(one.id)) out.set(one.publicAddress, { kind: 'interface', index: one.index })
  }
  for (const nat of nats) {
    if (nat.kind === 'public' && index.nats.has(nat.id))
      for (const address of natAddresses(nat)) if (!out.has(address)) out.set(address, { kind: 'nat', index: nat.index })
  }
  let number = 0
  for (const [id, frontend] of estate.frontends) {
    const owner: Owner = { kind: 'frontend', index: number++ }
    if (index.frontends.has(id)) for (const text of frontend.publicAddresses ?? []) if (!out.has(addressOf(text))) out.set(addressOf(text), owner)
  }
  return out
}

function rangedSpace(section: ReadonlyMap<string, Stated & { readonly ranges?: readonly string[] }>): Model['siteSpace'] {
  return prefixTable(
    [...section]
      .filter(([, object]) => isPresent(object))
      .flatMap(([id, object]) => (object.ranges ?? []).map((text) => ({ prefix: prefixOf(text), value: id }))),
  )
}

function groupBy<T>(items: readonly T[], key: (item: T) => number): Map<number, T[]> {
  const out = new Map<number, T[]>()
  for (const item of items) {
    const list = out.get(key(item))
    if (list) list.push(item)
    else out.set(key(item), [item])
  }
  return out
}
