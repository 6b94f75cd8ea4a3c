import type { Address } from '../address/address'
import { prefixOf } from '../address/prefix'
import { longestMatch } from '../address/prefix-table'
import {
  intersectRanges,
  rangesContain,
  rangeSet,
  rangeSetOf,
  subtractRanges,
  type RangeSet,
} from '../address/ranges'
import { subnetRanges } from '../hops/onward'
import { currentObserver } from '../incremental/cells'
import { derivedAndCompared, sameRanges } from '../model/derived'
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
      return known(model, 'internet', () =>
        subtractRanges(
          model.internetSpace,
          rangeSet([...outside(model, 'sites'), ...outside(model, 'services')]),
        ),
      )
    case 'services':
    case 'sites':
      return outside(model, column)
    case 'sameNetwork':
      return known(model, `beside ${index} in ${network}`, () =>
        rangeSetOf(
          model.networks[network]!.subnets.filter((other) => other !== index).flatMap(
            (other) => model.subnets[other]!.allRanges,
          ),
        ),
      )
    case 'otherNetworks':
      return others(model, subnet.network)
  }
}

/** The same as a set that subnets share, and what of it is not meant. */
export function spreadOf(
  model: Model,
  subnet: SubnetModel,
  column: ExitColumn,
): { readonly all: RangeSet; readonly without?: RangeSet } {
  // Who follows what he reads would read all subnets for each.
  if (column !== 'otherNetworks' || currentObserver() !== null)
    return { all: destinationsOf(model, subnet, column) }
  const { network } = subnet
  return {
    all: allSubnets(model),
    without: known(model, `ranges of ${network}`, () =>
      rangeSetOf(model.networks[network]!.ranges),
    ),
  }
}

const known = (model: Model, key: string, make: () => RangeSet): RangeSet =>
  derivedAndCompared(model, `destinations ${key}`, make, sameRanges)

const outside = (model: Model, section: 'sites' | 'services'): RangeSet =>
  known(model, section, () =>
    rangeSetOf(
      [...model.index[section].keys()].flatMap((id) =>
        (model.estate[section].get(id)?.ranges ?? []).map(prefixOf),
      ),
    ),
  )

const allSubnets = (model: Model): RangeSet =>
  known(model, 'subnets', () =>
    rangeSet([...model.index.networks.values()].flatMap((index) => subnetRanges(model, index))),
  )

/** What the subnets of other networks have, and this one's network has not. */
function others(model: Model, network: number): RangeSet {
  const find = (): RangeSet =>
    subtractRanges(allSubnets(model), rangeSetOf(model.networks[network]!.ranges))
  if (currentObserver() !== null) return known(model, `others ${network}`, find)
  // Nearly as large as all subnets, for each network: kept for its subnets, which follow one
  // another, and no longer.
  const last = latest.get(model)
  if (last?.network === network) return last.set
  const set = find()
  latest.set(model, { network, set })
  return set
}

const latest = new WeakMap<Model, { readonly network: number; readonly set: RangeSet }>()

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
