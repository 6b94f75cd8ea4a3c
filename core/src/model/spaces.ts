import { addressOf, prefixOf } from '../address/prefix'
import { AddressSet } from '../address/address-map'
import { prefixTable } from '../address/prefix-table'
import { PUBLIC_SPACE } from '../address/public'
import { rangeSetOf, subtractRanges } from '../address/ranges'
import type { State } from '../format/estate'
import type { Compiling } from './compiling'
import type { Model, NetworkModel, SubnetModel } from './model'
import { spaceOf } from './networks'
import { isPresent } from './sections'

type Spaces = Pick<
  Model,
  | 'inventory'
  | 'networkSpace'
  | 'subnetSpace'
  | 'siteSpace'
  | 'serviceSpace'
  | 'partySpace'
  | 'internetSpace'
>

/** The owners of the address space, by kind; `homes` says whether subnets are where they were. */
export function compileSpaces(
  { estate, index, previous, same, sameIndex }: Compiling,
  networks: readonly NetworkModel[],
  subnets: readonly SubnetModel[],
  homes: boolean,
): Spaces {
  const present = networks.filter((one) => index.networks.has(one.id))
  return {
    inventory: same('publicAddresses')
      ? previous!.inventory
      : new AddressSet(
          [...estate.publicAddresses]
            .filter(([, one]) => isPresent(one))
            .map(([text]) => addressOf(text)),
        ),
    networkSpace: same('networks')
      ? previous!.networkSpace
      : prefixTable(
          present.flatMap((one) => one.ranges.map((prefix) => ({ prefix, value: one.index }))),
        ),
    subnetSpace:
      homes && sameIndex('subnets')
        ? previous!.subnetSpace
        : spaceOf(subnets.filter((one) => index.subnets.has(one.id))),
    siteSpace: same('sites') ? previous!.siteSpace : rangedSpace(estate.sites),
    serviceSpace: same('services') ? previous!.serviceSpace : rangedSpace(estate.services),
    partySpace: same('parties') ? previous!.partySpace : rangedSpace(estate.parties),
    internetSpace: same('networks')
      ? previous!.internetSpace
      : subtractRanges(PUBLIC_SPACE, rangeSetOf(present.flatMap((one) => one.ranges))),
  }
}

function rangedSpace(
  section: ReadonlyMap<string, { readonly state?: State; readonly ranges?: readonly string[] }>,
): Model['siteSpace'] {
  return prefixTable(
    [...section]
      .filter(([, object]) => isPresent(object))
      .flatMap(([id, object]) =>
        (object.ranges ?? []).map((text) => ({ prefix: prefixOf(text), value: id })),
      ),
  )
}
