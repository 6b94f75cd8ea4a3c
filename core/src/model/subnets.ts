import { prefixOf } from '../address/prefix'
import { prefixTable, type PrefixEntry } from '../address/prefix-table'
import type { Estate, RouteTable } from '../format/estate'
import { keepAlike } from './alike'
import { learnableRoutes } from './learned'
import type { InterfaceModel, Model, RouteModel, SubnetModel } from './model'
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
  estate: Estate,
  index: Model['index'],
  interfaces: readonly InterfaceModel[],
  previous: Model | null,
): readonly SubnetModel[] {
  const regionOfZone = new Map(
    [...estate.regions].flatMap(([id, region]) =>
      (region.zones ?? []).map((zone) => [zone, id] as const),
    ),
  )
  const learnable = new Map<string, Map<string, PrefixEntry<RouteModel>[]>>()
  const learnedCache = new Map<string, SubnetModel['learned']>()
  const switchedCache = new Map<string, SubnetModel['switched']>()
  const tableIds = [...estate.routeTables.keys()]
  const learnsAsBefore =
    previous !== null && LEARN_FROM.every((section) => previous.estate[section] === estate[section])

  const tableOf = (source: SubnetModel['source']): { table: number; own: boolean } => {
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
  /** Whether an earlier subnet learned by the same words of the same table. */
  const learnedSame = (old: SubnetModel, table: number): boolean => {
    if (!learnsAsBefore || old.table !== table) return false
    if (table < 0) return true
    return sameLearning(
      previous!.estate.routeTables.get(tableIds[table]!),
      estate.routeTables.get(tableIds[table]!),
    )
  }
  const stable =
    previous !== null &&
    (['regions', 'services'] as const).every(
      (section) => previous.estate[section] === estate[section],
    ) &&
    (['ruleSets', 'networks', 'routeTables'] as const).every(
      (section) => previous.index[section] === index[section],
    )
  const sameNetworks = previous?.estate.networks === estate.networks
  const sameWords =
    learnsAsBefore &&
    tableIds.every((id) =>
      sameLearning(previous.estate.routeTables.get(id), estate.routeTables.get(id)),
    )
  const interfacesStand = previous?.interfaces === interfaces
  const interfacesOf = interfacesStand ? null : groupBy(interfaces, (one) => one.subnet)
  const interfaceNumbers = (number: number, id: string): readonly number[] => {
    if (interfacesOf) return (interfacesOf.get(number) ?? []).map((one) => one.index)
    const old = previous!.subnets[number]
    return old?.id === id
      ? old.interfaces
      : interfaces.filter((one) => one.subnet === number).map((one) => one.index)
  }

  return mapSection(estate, 'subnets', {
    before: previous && { estate: previous.estate, made: previous.subnets },
    allHold: stable && sameNetworks && sameWords && interfacesStand,
    holds: (old, source) =>
      stable &&
      (sameNetworks ||
        previous.estate.networks.get(source.network) === estate.networks.get(source.network)) &&
      (sameWords || learnedSame(old, old.table)) &&
      (interfacesStand || sameList(old.interfaces, interfaceNumbers(old.index, old.id))),
    make: (source, base): SubnetModel => {
      const network = estate.networks.get(source.network)
      const { table, own } = tableOf(source)
      const old = previous?.subnets[base.index]
      const known = old?.id === base.id && old.source.network === source.network ? old : undefined
      const sameRanges =
        known !== undefined &&
        known.source.ranges === source.ranges &&
        known.source.namedRanges === source.namedRanges
      const ranges = sameRanges ? known.ranges : source.ranges.map(prefixOf)
      const named = (): SubnetModel['allRanges'] =>
        Object.values(source.namedRanges ?? {})
          .flat()
          .map(prefixOf)
      return {
        ...base,
        up: base.up && isUp(network),
        network: index.networks.get(source.network) ?? -1,
        zone: source.zone ?? null,
        region:
          source.region ??
          (source.zone === undefined
            ? (network?.region ?? null)
            : (regionOfZone.get(source.zone) ?? null)),
        ranges,
        allRanges: sameRanges ? known.allRanges : [...ranges, ...named()],
        table,
        ownTable: own,
        learned:
          known && learnedSame(known, table)
            ? known.learned
            : learnedOf(source.network, table, known),
        switched: switchedOf(source.privateServices),
        boundary: index.ruleSets.get(source.boundary ?? '') ?? -1,
        ruleSets: (source.ruleSets ?? [])
          .map((id) => index.ruleSets.get(id) ?? -1)
          .filter((i) => i >= 0),
        interfaces: interfaceNumbers(base.index, base.id),
        givesPublicAddresses: source.givesPublicAddresses ?? false,
        role: source.role ?? null,
        source,
      }
    },
  })

  function learnedOf(
    networkId: string,
    table: number,
    old: SubnetModel | undefined,
  ): SubnetModel['learned'] {
    const key = `${networkId} ${table}`
    const known = learnedCache.get(key)
    if (known) return known
    const source = table < 0 ? undefined : estate.routeTables.get(tableIds[table]!)
    const openWithoutTable =
      table < 0 && estate.networks.get(networkId)?.behaviour === 'default-open'
    const learn = openWithoutTable
      ? 'all'
      : source && isUp(source)
        ? (source.learn ?? 'none')
        : 'none'
    let entries: PrefixEntry<RouteModel>[] = []
    if (learn !== 'none') {
      if (!learnable.has(networkId))
        learnable.set(networkId, learnableRoutes(estate, index, networkId))
      const routes = learnable.get(networkId)!
      entries = [...routes]
        .filter(([from]) => learn === 'all' || learn.includes(from))
        .flatMap(([, list]) => list)
    }
    const built = keepAlike(old?.learned, prefixTable(entries))
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
        return (service.ranges ?? []).map((text) =>
          builtInRoute(prefixOf(text), {
            kind: 'service-switch',
            id,
            index: index.services.get(id) ?? -1,
          }),
        )
      }),
    )
    switchedCache.set(key, built)
    return built
  }
}
