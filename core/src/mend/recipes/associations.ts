import { containsAddress, prefixOf } from '../../address/prefix'
import { addRoute, associate, newTable, ownCopy } from './routes'
import { derived, sameItems } from '../../incremental/derived'
import type { Model, SubnetModel, NatModel, TableModel } from '../../model/model'
import { tablesByNetwork } from '../../model/present'
import { type Mend, mend } from '../mend'
import { type Situation, isUp, freeId } from '../situation'

/** The numbers of a network's tables, in their order. */
export const tablesIn = derived(
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
export const leaveByNat = (model: Model, subnet: SubnetModel): Mend | null =>
  associateWith(model, subnet, () => true, 'whose default leads to a translator')

/** Associates a subnet with the first table whose default leads to a translator that fits. */
function associateWith(
  model: Model,
  subnet: SubnetModel,
  fits: (nat: NatModel) => boolean,
  why: string,
): Mend | null {
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
  return mend(`associate ${subnet.id} with ${other.id}, ${why}`, [associate(subnet.id, other.id)])
}

/** Gives a subnet a table of its network that leads out by a translator of its own zone. */
export function leaveInZone(model: Model, subnet: SubnetModel): Mend | null {
  return associateWith(
    model,
    subnet,
    (nat) => model.subnets[nat.subnet]?.zone === subnet.zone,
    `whose translator is in ${subnet.zone} too`,
  )
}

/**
 * For a subnet that has no table of its own: one of its network that leads to the destination. An
 * unused table was most likely made for it; else the table of a neighbour of the same role.
 */
export function tableThatLeads({ estate, lookup, dst }: Situation): string | null {
  const subnet = estate.subnets.get(lookup?.subnet ?? '')
  if (
    !subnet ||
    subnet.routeTable !== undefined ||
    estate.networks.get(subnet.network)?.behaviour === 'priority-routed'
  )
    return null
  const leads = [...estate.routeTables].filter(
    ([id, table]) =>
      id !== lookup!.table &&
      table.network === subnet.network &&
      isUp(table) &&
      table.routes?.some(
        (route) =>
          isUp(route) &&
          route.via !== 'drop' &&
          typeof route.to === 'string' &&
          containsAddress(prefixOf(route.to), dst),
      ),
  )
  const users = (id: string) => [...estate.subnets.values()].filter((one) => one.routeTable === id)
  const idle = leads.find(
    ([id]) =>
      users(id).length === 0 &&
      ![...estate.gateways.values()].some((gateway) => gateway.routeTable === id),
  )
  const alike = leads.find(([id]) =>
    users(id).some((one) => one.role !== undefined && one.role === subnet.role),
  )
  return (idle ?? alike)?.[0] ?? null
}

/**
 * Leads a translator's subnet out by a gateway: by the default route of its table where no other
 * subnet looks up there, else by a table of its own, so that its clients do not follow it out.
 */
export function leadNatOut(model: Model, subnet: string, gateway: string, to: string): Mend | null {
  const { estate } = model
  const own = model.subnets[model.index.subnets.get(subnet) ?? -1]
  if (!own) return null
  const route = { to, via: { gateway } }
  const table = own.table >= 0 ? model.tables[own.table]! : null
  const isShared = model.subnets.some((one) => one !== own && one.table === own.table)
  if (table && !isShared && table.up)
    return mend(
      `lead the default route of ${table.id} to ${gateway}`,
      addRoute(model, { subnet, table: table.id, entry: -1 }, to, route.via),
    )
  return mend(
    `give ${subnet} a table that leads out by ${gateway}`,
    newTable(estate, freeId(estate.routeTables, `${subnet}-out`), subnet, [route]),
  )
}

/**
 * A copy of a translator's subnet's table with the default that leads out by a gateway, for that
 * subnet alone: all its other traffic goes on as it does.
 */
export function copyThatLeadsOut(
  { estate, index, subnets, tables }: Model,
  subnet: string,
  gateway: string,
  to: string,
): Mend | null {
  const own = subnets[index.subnets.get(subnet) ?? -1]
  const table = own && own.table >= 0 ? tables[own.table]!.source : null
  if (table === null) return null
  const kept = (table.routes ?? []).filter((route) => route.to !== to)
  return mend(
    `give ${subnet} a copy of its table that leads out by ${gateway}`,
    ownCopy(estate, subnet, table, [...kept, { to, via: { gateway } }], `${subnet}-out`),
  )
}
