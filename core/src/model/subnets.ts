import { prefixOf } from '../address/prefix'
import { prefixTable, type PrefixEntry } from '../address/prefix-table'
import type { RouteTable } from '../format/estate'
import { keepAlike } from './alike'
import type { Compiling } from './compiling'
import { learnableRoutes } from './learned'
import type { Compiled, InterfaceModel, RouteModel, SubnetModel } from './model'
import { builtInRoute } from './routes'
import { groupBy, isUp, mapSection, sameList } from './sections'

/** What learned routes come from: only if one of these changed can they be others. */
const LEARN_FROM = [
  'gateways',
  'sites',
  'peerings',
  'transits',
  'networks',
  'prefixLists',
  'services',
] as const

/** Whether a table learns by the same words as it did. */
const sameLearning = (then: RouteTable | undefined, now: RouteTable | undefined): boolean =>
  then?.learn === now?.learn && then?.state === now?.state

/**
 * Every subnet with the table in force, what it learns and what it is switched to. Those that share
 * a table share the rest.
 */
export function compileSubnets(
  compiling: Compiling,
  interfaces: readonly InterfaceModel[],
): readonly SubnetModel[] {
  const { estate, previous, before } = compiling
  const earlier = takeOver(compiling, interfaces)
  const { stable, sameNetworks, sameWords, interfacesStand } = earlier
  return mapSection(estate, 'subnets', {
    before: before((model) => model.subnets),
    allHold: stable && sameNetworks && sameWords && interfacesStand,
    holds: (old, source) =>
      stable &&
      (sameNetworks ||
        previous!.estate.networks.get(source.network) === estate.networks.get(source.network)) &&
      (sameWords || earlier.learnsSame(old, old.table)) &&
      (interfacesStand || sameList(old.interfaces, earlier.interfacesOf(old.index, old.id))),
    make: subnetMaker(compiling, earlier),
  })
}

/** What of the subnets is as it was, and what is asked of each that may not be. */
interface Earlier {
  /** Whether what subnets refer to has the numbers it had. */
  readonly stable: boolean
  readonly sameNetworks: boolean
  /** Whether all tables learn by the words they did, from the same. */
  readonly sameWords: boolean
  readonly interfacesStand: boolean
  /** Whether an earlier subnet learned by the same words of the same table. */
  readonly learnsSame: (old: SubnetModel, table: number) => boolean
  /** The numbers of a subnet's interfaces, by its own number and id. */
  readonly interfacesOf: (number: number, id: string) => readonly number[]
}

function takeOver(
  { estate, previous, same, sameIndex }: Compiling,
  interfaces: readonly InterfaceModel[],
): Earlier {
  const tableIds = [...estate.routeTables.keys()]
  const learnsAsBefore = same(...LEARN_FROM)
  const sameLearningOf = (id: string): boolean =>
    sameLearning(previous!.estate.routeTables.get(id), estate.routeTables.get(id))
  const interfacesStand = previous?.interfaces === interfaces
  const bySubnet = interfacesStand ? null : groupBy(interfaces, (one) => one.subnet)
  return {
    stable: same('regions', 'services') && sameIndex('ruleSets', 'networks', 'routeTables'),
    sameNetworks: same('networks'),
    sameWords: learnsAsBefore && tableIds.every(sameLearningOf),
    interfacesStand,
    learnsSame: (old, table) =>
      learnsAsBefore && old.table === table && (table < 0 || sameLearningOf(tableIds[table]!)),
    interfacesOf: (number, id) => {
      if (bySubnet) return (bySubnet.get(number) ?? []).map((one) => one.index)
      const old = previous!.subnets[number]
      return old?.id === id
        ? old.interfaces
        : interfaces.filter((one) => one.subnet === number).map((one) => one.index)
    },
  }
}

/** Makes one subnet; what many share, such as a table's learned routes, is made once. */
function subnetMaker(
  compiling: Compiling,
  earlier: Earlier,
): (source: SubnetModel['source'], base: Compiled) => SubnetModel {
  const { estate, index, previous, of, all } = compiling
  const regionOfZone = new Map(
    [...estate.regions].flatMap(([id, region]) =>
      (region.zones ?? []).map((zone) => [zone, id] as const),
    ),
  )
  const learnedOf = learnedRoutes(compiling)
  const switchedOf = switchedServices(compiling)
  return (source, base) => {
    const network = estate.networks.get(source.network)
    const { table, own } = tableInForce(compiling, source)
    const old = previous?.subnets[base.index]
    const known = old?.id === base.id && old.source.network === source.network ? old : undefined
    return {
      ...base,
      ...rangesOf(source, known),
      up: base.up && isUp(network),
      network: index.networks.get(source.network) ?? -1,
      zone: source.zone ?? null,
      region:
        source.region ??
        (source.zone === undefined
          ? (network?.region ?? null)
          : (regionOfZone.get(source.zone) ?? null)),
      table,
      ownTable: own,
      learned:
        known && earlier.learnsSame(known, table)
          ? known.learned
          : learnedOf(source.network, table, known),
      switched: switchedOf(source.privateServices),
      boundary: of('ruleSets', source.boundary),
      ruleSets: all('ruleSets', source.ruleSets),
      interfaces: earlier.interfacesOf(base.index, base.id),
      givesPublicAddresses: source.givesPublicAddresses ?? false,
      role: source.role ?? null,
      source,
    }
  }
}

/** The table a subnet looks up in, −1 for none, and whether it is associated with it itself. */
function tableInForce(
  { estate, index }: Compiling,
  source: SubnetModel['source'],
): { table: number; own: boolean } {
  const network = estate.networks.get(source.network)
  // In a priority-routed network the table belongs to the network; a deleted table is no
  // association.
  const own =
    network?.behaviour === 'priority-routed'
      ? undefined
      : index.routeTables.get(source.routeTable ?? '')
  return {
    table: own ?? index.routeTables.get(network?.defaultRouteTable ?? '') ?? -1,
    own: own !== undefined,
  }
}

/**
 * A subnet's ranges, alone and with its named ones; the same objects where they were written so.
 */
function rangesOf(
  source: SubnetModel['source'],
  known: SubnetModel | undefined,
): Pick<SubnetModel, 'ranges' | 'allRanges'> {
  if (known?.source.ranges === source.ranges && known.source.namedRanges === source.namedRanges)
    return { ranges: known.ranges, allRanges: known.allRanges }
  const ranges = source.ranges.map(prefixOf)
  const named = Object.values(source.namedRanges ?? {}).flat()
  return { ranges, allRanges: [...ranges, ...named.map(prefixOf)] }
}

/** The learned routes of a table of a network, made once for all its subnets. */
function learnedRoutes({
  estate,
  index,
}: Compiling): (
  network: string,
  table: number,
  old: SubnetModel | undefined,
) => SubnetModel['learned'] {
  const tableIds = [...estate.routeTables.keys()]
  const learnable = new Map<string, Map<string, PrefixEntry<RouteModel>[]>>()
  const known = new Map<string, SubnetModel['learned']>()
  /** What a table learns from; a default-open network without a table learns from all. */
  const learnsFrom = (network: string, table: number): 'all' | 'none' | readonly string[] => {
    const source = table < 0 ? undefined : estate.routeTables.get(tableIds[table]!)
    if (table < 0 && estate.networks.get(network)?.behaviour === 'default-open') return 'all'
    return source && isUp(source) ? (source.learn ?? 'none') : 'none'
  }
  const entriesOf = (network: string, table: number): PrefixEntry<RouteModel>[] => {
    const learn = learnsFrom(network, table)
    if (learn === 'none') return []
    if (!learnable.has(network)) learnable.set(network, learnableRoutes(estate, index, network))
    return [...learnable.get(network)!]
      .filter(([from]) => learn === 'all' || learn.includes(from))
      .flatMap(([, list]) => list)
  }
  return (network, table, old) => {
    const key = `${network} ${table}`
    let made = known.get(key)
    if (!made) {
      made = keepAlike(old?.learned, prefixTable(entriesOf(network, table)))
      known.set(key, made)
    }
    return made
  }
}

/** The routes to services that a subnet is switched to, made once for each choice of services. */
function switchedServices({
  estate,
  index,
}: Compiling): (services: 'all' | readonly string[] | undefined) => SubnetModel['switched'] {
  const known = new Map<string, SubnetModel['switched']>()
  const make = (ids: readonly string[]): SubnetModel['switched'] =>
    prefixTable(
      ids.flatMap((id) => {
        const service = estate.services.get(id)
        if (!service || !isUp(service)) return []
        return (service.ranges ?? []).map((text) =>
          builtInRoute(prefixOf(text), {
            kind: 'service-switch',
            id,
            index: index.services.get(id) ?? -1,
          }),
        )
      }),
    )
  return (services) => {
    const ids = services === 'all' ? [...estate.services.keys()] : (services ?? [])
    const key = ids.join(' ')
    let made = known.get(key)
    if (!made) known.set(key, (made = make(ids)))
    return made
  }
}
