import type { Address } from '../address/address'
import { AddressMap } from '../address/address-map'
import { prefixOf, type Prefix } from '../address/prefix'
import { prefixTable, type PrefixEntry } from '../address/prefix-table'
import type { Estate } from '../format'
import { lazy } from '../incremental/cells'
import type { SubnetModel, Model, Owner, NetworkModel, RouteModel } from './model'
import { builtInRoute, openDefaults } from './routes'
import { groupBy, mapSection, sameList, isPresent, isUp } from './sections'

/** Whether every subnet has the ranges and the network it had, and is up or not as it was. */
export function sameHomes(subnets: readonly SubnetModel[], previous: Model | null): boolean {
  if (previous?.subnets === subnets) return true
  if (previous === null || previous.subnets.length !== subnets.length) return false
  return subnets.every((subnet, i) => {
    const old = previous.subnets[i]!
    return (
      old === subnet ||
      (old.id === subnet.id &&
        old.up === subnet.up &&
        old.network === subnet.network &&
        old.allRanges === subnet.allRanges)
    )
  })
}

/** Whether the same subnets are in the same order, networks and state. */
export function sameStates(a: Estate['subnets'], b: Estate['subnets']): boolean {
  if (a === b) return true
  const others = b.entries()
  for (const [id, one] of a) {
    const other = others.next().value
    if (
      other?.[0] !== id ||
      (other[1] !== one && (other[1].state !== one.state || other[1].network !== one.network))
    )
      return false
  }
  return others.next().done === true
}

/** Which subnet has each address, over all networks. */
export const spaceOf = (subnets: readonly SubnetModel[]): Model['subnetSpace'] =>
  prefixTable(subnets.flatMap((s) => s.allRanges.map((prefix) => ({ prefix, value: s.index }))))

/** Networks with the owners of their addresses (null: as before) and their built-in routes. */
export function compileNetworks(
  estate: Estate,
  index: Model['index'],
  subnets: readonly SubnetModel[],
  owners: ReadonlyMap<number, ReadonlyMap<Address, Owner>> | null,
  sameHomes: boolean,
  previous: Model | null,
): readonly NetworkModel[] {
  const grouped = lazy(() =>
    groupBy(
      subnets.filter((s) => index.subnets.has(s.id)),
      (s) => s.network,
    ),
  )
  const homes = sameHomes && previous!.index.subnets === index.subnets
  const routesHold =
    homes &&
    previous!.estate.networks === estate.networks &&
    previous!.estate.peerings === estate.peerings
  return mapSection(estate, 'networks', {
    before: previous && { estate: previous.estate, made: previous.networks },
    holds: () => routesHold && owners === null,
    make: (source, base): NetworkModel => {
      const known =
        previous?.networks[base.index]?.id === base.id ? previous.networks[base.index]! : undefined
      const own = (grouped().get(base.index) ?? []) as SubnetModel[]
      const numbers = own.map((s) => s.index)
      const sameSubnets = homes && known !== undefined && sameList(known.subnets, numbers)
      return {
        ...base,
        behaviour: source.behaviour ?? 'table-routed',
        region: source.region ?? null,
        levels: source.levels ?? 'every',
        implicitEgress: source.implicitEgress ?? false,
        ranges: (source.ranges ?? []).map(prefixOf),
        subnets: numbers,
        // Owners are grouped by the number of their network, which may be another one by now.
        owners:
          (owners === null ? previous!.networks[base.index]?.owners : owners.get(base.index)) ??
          new AddressMap<Owner>(),
        subnetSpace: sameSubnets ? known.subnetSpace : spaceOf(own),
        builtIn:
          routesHold && known
            ? known.builtIn
            : prefixTable(builtInRoutes(estate, index, base.id, grouped())),
      }
    },
  })
}

/** The routes that every subnet of a network has without their being written (design part 3.1). */
function builtInRoutes(
  estate: Estate,
  index: Model['index'],
  id: string,
  subnetsOf: ReadonlyMap<number, readonly SubnetModel[]>,
): PrefixEntry<RouteModel>[] {
  const behaviour = estate.networks.get(id)!.behaviour ?? 'table-routed'
  const rangesAt = (networkId: string): readonly Prefix[] => {
    const other = estate.networks.get(networkId)
    if (!other || !isPresent(other)) return []
    if (behaviour !== 'priority-routed') return (other.ranges ?? []).map(prefixOf)
    return (subnetsOf.get(index.networks.get(networkId) ?? -1) ?? []).flatMap(
      (subnet) => subnet.allRanges,
    )
  }
  const out = rangesAt(id).map((prefix) => builtInRoute(prefix, { kind: 'local' }))
  if (behaviour === 'table-routed') return out
  for (const [peeringId, peering] of estate.peerings) {
    if (!isUp(peering)) continue
    const other = peering.a.network === id ? peering.b : peering.b.network === id ? peering.a : null
    if (!other) continue
    const target = {
      kind: 'peering',
      id: peeringId,
      index: index.peerings.get(peeringId) ?? -1,
    } as const
    out.push(...rangesAt(other.network).map((prefix) => builtInRoute(prefix, target)))
  }
  return behaviour === 'default-open' ? [...out, ...openDefaults()] : out
}
