import { derived, sameItems } from '../incremental/derived'
import { formatPrefix } from '../address/prefix'
import { prefixesOfRange, type RangeSet } from '../address/ranges'
import type { Route } from '../format/estate'
import { pointer, type Operation } from '../changes/index'
import type {
  InterfaceModel,
  Model,
  NatModel,
  RouteModel,
  SubnetModel,
  TableModel,
} from '../model/model'
import { groupBy } from '../model/sections'
import type { FindingMend } from './finding'
import { tablesByNetwork } from './table-routes'

/** More routes than this are no small change. */
const MOST_ROUTES = 6

/** The written table a subnet looks up in; null where it has none. */
const tableOf = (model: Model, subnet: SubnetModel) =>
  subnet.table >= 0 ? model.tables[subnet.table]! : null

/** Writes more routes at the end of a table. */
export const appendRoutes = ({ id, source }: TableModel, routes: readonly Route[]): Operation[] =>
  source.routes
    ? routes.map((value) => ({ op: 'add', path: pointer('routeTables', id, 'routes', '-'), value }))
    : [{ op: 'add', path: pointer('routeTables', id, 'routes'), value: routes }]

/** Leads ranges that go round a firewall where the route leads that they were to follow. */
export function leadThrough(
  model: Model,
  subnet: SubnetModel,
  ranges: RangeSet,
  winner: RouteModel,
  covered: RouteModel,
): FindingMend | null {
  const table = tableOf(model, subnet)
  const via = table?.source.routes?.[covered.entry]?.via
  // A service that a switch leads to is led there on purpose, and no route of the same length comes
  // before it.
  if (winner.target.kind === 'service-switch') return null
  if (
    !table ||
    via === undefined ||
    covered.table !== table.index ||
    model.networks[subnet.network]!.behaviour === 'priority-routed'
  )
    return null
  if (winner.origin === 'table') {
    if (winner.table !== table.index || winner.entry < 0) return null
    const what = `lead ${formatPrefix(winner.prefix)} in ${table.id} where ${formatPrefix(covered.prefix)} leads`
    return {
      what,
      changes: [
        {
          op: 'replace',
          path: pointer('routeTables', table.id, 'routes', winner.entry, 'via'),
          value: via,
        },
      ],
    }
  }
  const prefixes = ranges.flatMap((range) => prefixesOfRange(range)).map(formatPrefix)
  const taken = new Set((table.source.routes ?? []).map(({ to }) => to))
  if (prefixes.length > MOST_ROUTES || prefixes.some((prefix) => taken.has(prefix))) return null
  return {
    what: `lead ${prefixes.join(', ')} in ${table.id} where ${formatPrefix(covered.prefix)} leads: a route as long as the one that wins comes before it`,
    changes: appendRoutes(
      table,
      prefixes.map((to) => ({ to, via })),
    ),
  }
}

/** The numbers of a network's tables, in their order. */
const tablesIn = derived(
  (model: Model, network: number): readonly number[] =>
    tablesByNetwork(model)
      .get(network)
      ?.map((table) => table.index) ?? [],
  { same: sameItems },
)

/**
 * Gives a subnet that leaves directly another table of its network, one whose default leads to a
 * translator that is there.
 */
export const leaveByNat = (model: Model, subnet: SubnetModel): FindingMend | null =>
  associateWith(model, subnet, () => true, 'whose default leads to a translator')

/** Associates a subnet with the first table whose default leads to a translator that fits. */
function associateWith(
  model: Model,
  subnet: SubnetModel,
  fits: (nat: NatModel) => boolean,
  why: string,
): FindingMend | null {
  if (model.networks[subnet.network]!.behaviour !== 'table-routed') return null
  const leadsToNat = ({ up, source }: TableModel): boolean =>
    up &&
    (source.routes ?? []).some(({ to, via, state }) => {
      if (
        to !== '0.0.0.0/0' ||
        (state ?? 'up') !== 'up' ||
        typeof via !== 'object' ||
        via.nat === undefined
      )
        return false
      const nat = model.nats[model.index.nats.get(via.nat) ?? -1]
      return nat !== undefined && nat.up && nat.network === subnet.network && fits(nat)
    })
  const other = tablesIn(model, subnet.network)
    .map((index) => model.tables[index]!)
    .find((table) => table.index !== subnet.table && leadsToNat(table))
  if (!other) return null
  return {
    what: `associate ${subnet.id} with ${other.id}, ${why}`,
    changes: [{ op: 'add', path: pointer('subnets', subnet.id, 'routeTable'), value: other.id }],
  }
}

/**
 * Takes away the default by which IPv6 leaves; in a default-open network a route that drops stands
 * in for the built-in one.
 */
export function closeIpv6(model: Model, subnet: SubnetModel): FindingMend | null {
  const table = tableOf(model, subnet)
  if (!table) return null
  const entry = (table.source.routes ?? []).findIndex(({ to }) => to === '::/0')
  const path = pointer('routeTables', table.id, 'routes', entry)
  if (model.networks[subnet.network]!.behaviour === 'default-open') {
    const drop: Route = { to: '::/0', via: 'drop' }
    return {
      what: `drop IPv6 that ${table.id} has no other route for`,
      changes: entry >= 0 ? [{ op: 'replace', path, value: drop }] : appendRoutes(table, [drop]),
    }
  }
  return entry < 0
    ? null
    : { what: `take the IPv6 default out of ${table.id}`, changes: [{ op: 'remove', path }] }
}

/** Leads a service's ranges to the routed endpoint that its network has. */
export function useEndpoint(
  model: Model,
  subnet: SubnetModel,
  service: string,
  endpoints: readonly string[],
): FindingMend | null {
  const table = tableOf(model, subnet)
  const endpoint = endpoints.find((id) => model.estate.endpoints.get(id)?.style === 'routed')
  if (!table || endpoint === undefined) return null
  if (
    (table.source.routes ?? []).some(
      ({ to }) => typeof to === 'object' && 'service' in to && to.service === service,
    )
  )
    return null
  return {
    what: `lead ${service} to ${endpoint} in ${table.id}`,
    changes: appendRoutes(table, [{ to: { service }, via: { endpoint } }]),
  }
}

/** Links the zone that has a private answer to a network. */
export function linkZone(model: Model, by: string, network: string): FindingMend | null {
  if (!by.startsWith('nameZones/')) return null
  const id = by.slice('nameZones/'.length)
  const zone = model.estate.nameZones.get(id)
  if (!zone) return null
  const linked = zone.linkedTo !== undefined
  const path = linked
    ? pointer('nameZones', id, 'linkedTo', '-')
    : pointer('nameZones', id, 'linkedTo')
  return {
    what: `link ${id} to ${network}`,
    changes: [{ op: 'add', path, value: linked ? network : [network] }],
  }
}

/**
 * Keeps a public address that may change: those of a translator that takes any it is given, or one
 * that its host may lose.
 */
export function keepAddress(
  model: Model,
  address: string,
  objects: readonly string[],
): FindingMend | null {
  const automatic = objects.flatMap((ref) => {
    const nat = ref.startsWith('nats/')
      ? model.estate.nats.get(ref.slice('nats/'.length))
      : undefined
    return nat?.allocation === 'automatic' && (nat.addresses ?? []).length > 0
      ? [ref.slice('nats/'.length)]
      : []
  })
  if (automatic.length > 0)
    return {
      what: `let ${automatic.join(', ')} keep the addresses it has`,
      changes: automatic.map((id) => ({
        op: 'replace',
        path: pointer('nats', id, 'allocation'),
        value: 'manual',
      })),
    }
  if (model.estate.publicAddresses.get(address)?.reserved !== false) return null
  const path = pointer('publicAddresses', address, 'reserved')
  return {
    what: `reserve ${address}, so that it stays`,
    changes: [{ op: 'replace', path, value: true }],
  }
}

/** Gives an interface the rule sets that all others of its subnet share. */
export function neighboursSets(
  model: Model,
  one: InterfaceModel,
  subnet: SubnetModel,
): FindingMend | null {
  const others = subnet.interfaces.filter(
    (index) => index !== one.index && model.index.interfaces.has(model.interfaces[index]!.id),
  )
  const [first, ...more] = others.map((index) =>
    (model.estate.interfaces.get(model.interfaces[index]!.id)?.ruleSets ?? []).filter((id) =>
      model.index.ruleSets.has(id),
    ),
  )
  if (
    first === undefined ||
    first.length === 0 ||
    more.some((sets) => sets.join() !== first.join())
  )
    return null
  const what = `give ${one.id} ${first.join(', ')}, as its neighbours in ${subnet.id} have`
  return {
    what,
    changes: [{ op: 'add', path: pointer('interfaces', one.id, 'ruleSets'), value: [...first] }],
  }
}

/** Gives a subnet a table of its network that leads out by a translator of its own zone. */
export function leaveInZone(model: Model, subnet: SubnetModel): FindingMend | null {
  return associateWith(
    model,
    subnet,
    (nat) => model.subnets[nat.subnet]?.zone === subnet.zone,
    `whose translator is in ${subnet.zone} too`,
  )
}

/** Fewer ports than these a host does not get along with. */
const FEWEST_PORTS = 64

/** So many ports for each host that all have some. */
export function sharePorts(nat: NatModel, served: number, offered: number): FindingMend | null {
  const value = Math.floor(offered / served)
  if (value < FEWEST_PORTS) return null
  const path = pointer('nats', nat.id, 'portsPerHost')
  return {
    what: `give each host behind ${nat.id} ${value} ports, or the translator another address`,
    changes: [{ op: 'add', path, value }],
  }
}

/** Gives an object tags that it lacks, where all of them are known; `why` says from whom. */
export function giveTags(
  section: string,
  id: string,
  tags: object | undefined,
  lacking: ReadonlyMap<string, string | undefined>,
  why: string,
): FindingMend | null {
  const given = [...lacking].flatMap(([key, value]) =>
    value === undefined ? [] : [[key, value] as const],
  )
  if (given.length < lacking.size) return null
  return {
    what: `tag ${id} ${given.map((one) => one.join('=')).join(', ')}, ${why}`,
    changes: tags
      ? given.map(([key, value]) => ({ op: 'add', path: pointer(section, id, 'tags', key), value }))
      : [{ op: 'add', path: pointer(section, id, 'tags'), value: Object.fromEntries(given) }],
  }
}

/**
 * Takes an object out that nothing uses, with every key that would otherwise name what is gone;
 * null where something that stays is about it: a network that still holds objects, a group, an
 * expectation, a rule.
 */
export function remove(model: Model, section: string, id: string): FindingMend | null {
  const out: Operation = { op: 'remove', path: pointer(section, id) }
  if (isNamedByPeople(model, section, id)) return null
  const keys = keysThatName(model, section, id)
  if (keys === null) return null
  const along = keys.length === 0 ? '' : ', and its name where it stands'
  return {
    what: `remove ${id}${along}`,
    changes: [...keys.map((path): Operation => ({ op: 'remove', path })), out],
  }
}

/** Keys that name an object and do nothing without it; null for a network that is not empty. */
function keysThatName(model: Model, section: string, id: string): string[] | null {
  const { estate } = model
  if (section === 'routeTables') {
    const defaults = [...estate.networks].filter(([, network]) => network.defaultRouteTable === id)
    return [
      ...defaults.map(([network]) => pointer('networks', network, 'defaultRouteTable')),
      ...(namedInVain(model).get(id) ?? []),
    ]
  }
  if (section === 'gateways') {
    const learning = (sources: unknown): number =>
      Array.isArray(sources) ? sources.indexOf(id) : -1
    return [...estate.routeTables].flatMap(([table, { learn }]) =>
      learning(learn) < 0 ? [] : [pointer('routeTables', table, 'learn', learning(learn))],
    )
  }
  return section === 'networks' ? keysThatNameNetwork(model, id) : []
}

function keysThatNameNetwork(model: Model, id: string): string[] | null {
  const { estate, attached, transits } = model
  const index = model.index.networks.get(id)!
  const stands =
    [attached.gateways, attached.nats, attached.peerings].some(
      (by) => (by.get(index)?.length ?? 0) > 0,
    ) || tablesIn(model, index).length > 0
  const used = [
    ...estate.endpoints.values(),
    ...estate.subnets.values(),
    ...estate.firewalls.values(),
  ].some((one) => one.network === id)
  if (stands || used || transits.some(({ attachmentOf }) => attachmentOf.has(index))) return null
  return [...estate.nameZones].flatMap(([zone, { linkedTo }]) => {
    const at = linkedTo?.indexOf(id) ?? -1
    return at < 0 ? [] : [pointer('nameZones', zone, 'linkedTo', at)]
  })
}

/** A table with a key of a subnet or gateway that names it. */
type NamedTable = readonly [table: string, path: string]

/** Tables that subnets and gateways name, though another table, or none, is in force there. */
const tablesNamedInVain = derived(
  ({ estate, index, tables, subnets }: Model): readonly NamedTable[] => {
    const inForce = (id: string): string | undefined =>
      tables[subnets[index.subnets.get(id) ?? -1]?.table ?? -1]?.id
    const ofSubnets = [...estate.subnets].flatMap(([id, { routeTable }]): NamedTable[] =>
      routeTable !== undefined && inForce(id) !== routeTable
        ? [[routeTable, pointer('subnets', id, 'routeTable')]]
        : [],
    )
    const ofGateways = [...estate.gateways].flatMap(([id, { routeTable }]): NamedTable[] =>
      routeTable !== undefined && !index.gateways.has(id)
        ? [[routeTable, pointer('gateways', id, 'routeTable')]]
        : [],
    )
    return [...ofSubnets, ...ofGateways]
  },
  { same: (a, b) => a.length === b.length && a.every((one, at) => one.join() === b[at]!.join()) },
)

/** The same, as the keys by table. */
const namedInVain = (model: Model): ReadonlyMap<string, readonly string[]> =>
  new Map(
    [...groupBy(tablesNamedInVain(model), ([table]) => table)].map(([table, all]) => [
      table,
      all.map(([, path]) => path),
    ]),
  )

/** Whether a group, an expectation or a rule of the estate names an object. */
function isNamedByPeople({ estate }: Model, section: string, id: string): boolean {
  const ref = `${section}/${id}`
  const inGroup = [...estate.groups.values()].some(
    (group) =>
      group.section === section && [...(group.members ?? []), ...(group.except ?? [])].includes(id),
  )
  return (
    inGroup ||
    [...estate.expectations.values(), ...estate.estateRules].some((one) =>
      mentions(one, ref, section, id),
    )
  )
}

/** The keys by which a selection names objects of a section. */
const SELECTED: Readonly<Record<string, string>> = {
  network: 'networks',
  site: 'sites',
  party: 'parties',
  service: 'services',
  ruleSet: 'ruleSets',
}

function mentions(value: unknown, ref: string, section: string, id: string): boolean {
  if (typeof value !== 'object' || value === null) return value === ref
  return Object.entries(value).some(
    ([key, inner]) =>
      (inner === id && SELECTED[key] === section) || mentions(inner, ref, section, id),
  )
}
