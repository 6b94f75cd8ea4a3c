import { parseAddress } from '../address/address'
import { pointer, type Operation } from '../changes/index'
import type { Nat } from '../format/estate'
import { freeReserve, publicSubnetFor } from '../mend/recipes/translators'
import { freeId } from '../mend/situation'
import type { Model, SubnetModel } from '../model/model'
import { listed, moved, notMoved, type Moved, type NotMoved } from './move'
import { lead, noTables, unknownSubnets } from '../steering/tables'

export interface WayOutMove {
  readonly subnets: readonly string[]
  /** One NAT for all of a network, one for each zone, or one for each subnet. */
  readonly by: 'one' | 'zone' | 'subnet'
  /** Public addresses to take, in this order; those the estate does not have yet are reserved. */
  readonly addresses?: readonly string[] | undefined
}

/** A way out with what it costs, and what the loss of each zone takes down. */
export interface WayOut {
  readonly by: WayOutMove['by']
  readonly made: Moved | NotMoved
  readonly nats: number
  /** What its NATs and addresses cost by the hour, from the estate's own prices; null without. */
  readonly perHour: number | null
  /** By zone, the chosen subnets of other zones that lose their way out with it. */
  readonly onLoss: readonly { readonly zone: string; readonly subnets: readonly string[] }[]
}

/** The three ways out of chosen subnets, side by side. */
export const waysOut = (model: Model, move: Omit<WayOutMove, 'by'>): WayOut[] =>
  (['one', 'zone', 'subnet'] as const).map((by) => wayOut(model, { ...move, by }))

interface Group {
  readonly name: string
  readonly subnets: readonly SubnetModel[]
  readonly door: SubnetModel
}

/**
 * A way out by NATs: where NATs are routed to, each stands in a public subnet of the network, of
 * the same zone if there is one, and the subnets' default leads to it; where they are attached to a
 * region, each serves its subnets. Addresses come from the reserve.
 */
export function wayOut(model: Model, { subnets, by, addresses = [] }: WayOutMove): WayOut {
  const nothing = (message: string): WayOut => ({
    ...{ by, made: notMoved(message), nats: 0, perHour: null, onLoss: [] },
  })
  const missing = unknownSubnets(model, subnets)
  if (missing.length > 0) return nothing(`there is no subnet ${listed(missing)} in this estate`)
  if (subnets.length === 0) return nothing('choose the subnets that are to get a way out')
  const chosen = subnets.map((id) => model.subnets[model.index.subnets.get(id)!]!)
  const groups = groupsOf(model, chosen, by)
  if (typeof groups === 'string') return nothing(groups)
  const unusable = addresses.find((text) => typeof parseAddress(text) !== 'number')
  if (unusable !== undefined) return nothing(`"${unusable}" is no IPv4 address`)
  const free = freeReserve(model)
  const taken = addresses.find(
    (text) => model.estate.publicAddresses.has(text) && !free.some(({ id }) => id === text),
  )
  if (taken !== undefined) return nothing(`${taken} is not free`)
  const wanted = addresses.map((id) => ({ id, region: undefined }))
  const reserve = [...wanted, ...free.filter(({ id }) => !addresses.includes(id))]
  const under = noTables()
  const operations: Operation[] = []
  const added = new Map<string, unknown>(model.estate.nats)
  for (const group of groups) {
    const region = group.door.region
    const address = reserve.find((one) => one.region === undefined || one.region === region)
    if (!address)
      return nothing(
        `${groups.length} public ${groups.length === 1 ? 'address is' : 'addresses are'} wanted, and not so many are reserved and free${region === null ? '' : ` in ${region}`}: name those that you will reserve`,
      )
    reserve.splice(reserve.indexOf(address), 1)
    if (!model.estate.publicAddresses.has(address.id))
      operations.push({
        op: 'add',
        path: pointer('publicAddresses', address.id),
        value: { reserved: true, ...(region === null ? {} : { region }) },
      })
    operations.push(...natFor(model, under, added, group, address.id))
  }
  const names = chosen.map(({ id }) => id)
  const count = groups.length
  const what = `a way out for ${listed(names)} by ${count === 1 ? 'one NAT' : `${count} NATs`}`
  const { prices } = model.estate
  return {
    by,
    made: moved(what, [...operations, ...under.operations]),
    nats: count,
    perHour: prices ? count * ((prices.natHour ?? 0) + (prices.publicAddressHour ?? 0)) : null,
    onLoss: lossesOf(groups),
  }
}

function groupsOf(
  model: Model,
  chosen: readonly SubnetModel[],
  by: WayOutMove['by'],
): Group[] | string {
  const groups = new Map<string, SubnetModel[]>()
  for (const one of chosen) {
    const network = model.networks[one.network]!.id
    const key =
      by === 'one' ? network : by === 'zone' ? `${network}-${one.zone ?? 'any'}` : `${one.id}`
    groups.set(key, [...(groups.get(key) ?? []), one])
  }
  const out: Group[] = []
  for (const [name, subnets] of groups) {
    const isRouted = model.networks[subnets[0]!.network]!.behaviour === 'table-routed'
    const door = isRouted ? publicSubnetFor(model, subnets[0]!) : subnets[0]!
    if (!door)
      return `${model.networks[subnets[0]!.network]!.id} has no subnet whose default leads to an internet gateway, where a NAT could stand: make one first`
    out.push({ name, subnets, door })
  }
  return out
}

/** A NAT of a group, and what leads its subnets there. */
function natFor(
  model: Model,
  under: ReturnType<typeof noTables>,
  added: Map<string, unknown>,
  { name, subnets, door }: Group,
  address: string,
): Operation[] {
  const network = model.networks[door.network]!
  const id = freeId(added, `nat-${name}`)
  const ids = subnets.map((one) => one.id)
  const isRouted = network.behaviour === 'table-routed'
  const nat: Nat = {
    ...{ network: network.id, kind: 'public', addresses: [address] },
    ...(isRouted
      ? { placement: { subnet: door.id } }
      : { placement: { region: door.region ?? '' }, serves: { subnets: ids } }),
  }
  added.set(id, nat)
  if (isRouted)
    lead(model, under, {
      subnets: ids,
      routes: [{ to: '0.0.0.0/0', via: { nat: id } }],
      name: `${name}-out`,
    })
  return [{ op: 'add', path: pointer('nats', id), value: nat }]
}

/** What goes down beside the zone itself where the zone of a NAT is lost. */
function lossesOf(groups: readonly Group[]): WayOut['onLoss'] {
  const zones = new Map<string, string[]>()
  for (const { door, subnets } of groups) {
    if (door.zone === null) continue
    const others = subnets.filter(({ zone }) => zone !== door.zone).map(({ id }) => id)
    zones.set(door.zone, [...(zones.get(door.zone) ?? []), ...others])
  }
  return [...zones].map(([zone, subnets]) => ({ zone, subnets }))
}
