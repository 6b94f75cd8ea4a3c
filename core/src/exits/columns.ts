import type { Address } from '../address/address'
import { prefixOf } from '../address/prefix'
import { longestMatch } from '../address/prefix-table'
import {
  intersectRanges,
  rangesContain,
  rangeSet,
  rangeSetOf,
  subtractRanges,
  sameRanges,
  type RangeSet,
} from '../address/ranges'
import { subnetRanges } from '../hops/onward'
import { derived } from '../incremental/derived'
import type { Grain } from '../incremental/grain'
import type { Model, SubnetModel } from '../model/model'

/** The kinds of destination, as columns of the matrix. */
export const EXIT_COLUMNS = [
  'internet',
  'services',
  'sites',
  'otherNetworks',
  'sameNetwork',
] as const
export type ExitColumn = (typeof EXIT_COLUMNS)[number]

/** A column’s members, where it has any: what it opens into. */
export function membersOf(model: Model, column: ExitColumn): readonly string[] {
  if (column === 'services')
    return [...model.index.services.keys()].filter(
      (id) => (model.estate.services.get(id)?.ranges ?? []).length > 0,
    )
  if (column === 'sites')
    return [...model.index.sites.keys()].filter(
      (id) => (model.estate.sites.get(id)?.ranges ?? []).length > 0,
    )
  return column === 'otherNetworks' ? [...model.index.networks.keys()] : []
}

/** The addresses a column stands for at a subnet, or those of one of its members. */
export function destinationsOf(
  model: Model,
  subnet: SubnetModel,
  column: ExitColumn,
  member?: string,
): RangeSet {
  if (member !== undefined) return memberRanges(model, subnet, column, member)
  const { index, network } = subnet
  switch (column) {
    case 'internet':
      return internet(model)
    case 'services':
    case 'sites':
      return outside(model, column)
    case 'sameNetwork':
      return besideIn(model, network, index)
    case 'otherNetworks':
      return others(model, subnet.network)
  }
}

/** A set of destinations that subnets may share, and what of it is not meant at one of them. */
export interface Spread {
  readonly all: RangeSet
  readonly without?: RangeSet
}

/** The addresses a column stands for at a subnet, as a set that other subnets share if possible. */
export const spreadOf = (
  model: Model,
  subnet: SubnetModel,
  column: ExitColumn,
  grain: Grain,
): Spread => SPREAD[grain](model, subnet, column)

/** By grain: the destinations of one network depend on fewer objects than those of all do. */
const SPREAD: Record<Grain, (model: Model, subnet: SubnetModel, column: ExitColumn) => Spread> = {
  coarse: (model, subnet, column) =>
    column === 'otherNetworks'
      ? { all: allSubnets(model), without: networkRanges(model, subnet.network) }
      : { all: destinationsOf(model, subnet, column) },
  fine: (model, subnet, column) => ({ all: destinationsOf(model, subnet, column) }),
}

const outside = derived(
  (model: Model, section: 'sites' | 'services'): RangeSet =>
    rangeSetOf(
      [...model.index[section].keys()].flatMap((id) =>
        (model.estate[section].get(id)?.ranges ?? []).map(prefixOf),
      ),
    ),
  { same: sameRanges },
)

const internet = derived(
  (model: Model): RangeSet =>
    subtractRanges(
      model.internetSpace,
      rangeSet([...outside(model, 'sites'), ...outside(model, 'services')]),
    ),
  { same: sameRanges },
)

/** The addresses of the other subnets of a subnet's network. */
const besideIn = derived(
  (model: Model, network: number, subnet: number): RangeSet =>
    rangeSetOf(
      model.networks[network]!.subnets.filter((other) => other !== subnet).flatMap(
        (other) => model.subnets[other]!.allRanges,
      ),
    ),
  { same: sameRanges },
)

const networkRanges = derived(
  (model: Model, network: number): RangeSet => rangeSetOf(model.networks[network]!.ranges),
  { same: sameRanges },
)

const allSubnets = derived(
  (model: Model): RangeSet =>
    rangeSet([...model.index.networks.values()].flatMap((index) => subnetRanges(model, index))),
  { same: sameRanges },
)

/**
 * The addresses that subnets of other networks have, and this network does not. Nearly as large as
 * all subnets together, so that only the last one is cached: the subnets of a network are asked for
 * one after the other.
 */
const others = derived(
  (model: Model, network: number): RangeSet =>
    subtractRanges(allSubnets(model), rangeSetOf(model.networks[network]!.ranges)),
  { same: sameRanges, untracked: 'last' },
)

function memberRanges(
  model: Model,
  subnet: SubnetModel,
  column: ExitColumn,
  member: string,
): RangeSet {
  if (column === 'services' || column === 'sites')
    return rangeSetOf((model.estate[column].get(member)?.ranges ?? []).map(prefixOf))
  if (column !== 'otherNetworks') return destinationsOf(model, subnet, column)
  const index = model.index.networks.get(member)
  return index === undefined || index === subnet.network
    ? []
    : intersectRanges(others(model, subnet.network), subnetRanges(model, index))
}

/**
 * What stands at the far end of a way, as a subnet sees it: a column, and which of its members
 * where it has some.
 */
export interface FarEnd {
  readonly column: ExitColumn
  readonly member: string | null
}

/** Where an address stands for a subnet. */
export function farEndAt(model: Model, subnet: SubnetModel, address: Address): FarEnd {
  for (const column of ['sites', 'services'] as const) {
    if (!rangesContain(destinationsOf(model, subnet, column), address)) continue
    return {
      column,
      member:
        membersOf(model, column).find((id) =>
          rangesContain(memberRanges(model, subnet, column, id), address),
        ) ?? null,
    }
  }
  if (rangesContain(rangeSetOf(model.networks[subnet.network]!.ranges), address))
    return { column: 'sameNetwork', member: null }
  const [home] = longestMatch(model.subnetSpace, address)
  if (home !== undefined)
    return { column: 'otherNetworks', member: model.networks[model.subnets[home]!.network]!.id }
  const [network] = longestMatch(model.networkSpace, address)
  if (network !== undefined) return { column: 'otherNetworks', member: model.networks[network]!.id }
  return {
    column: rangesContain(model.internetSpace, address) ? 'internet' : 'otherNetworks',
    member: null,
  }
}
