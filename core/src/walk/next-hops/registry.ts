import type { Model, RouteModel } from '../../model/model'
import type { Target, TargetKind, TargetOf } from '../../model/targets'
import { handOver } from '../hand-over'
import { lose } from '../next-state'
import type { HopFrom, State, Step, WalkContext } from '../state'
import { address } from './address'
import { drop } from './drop'
import { endpoint } from './endpoint'
import { gateway } from './gateway'
import { inspect } from './inspect'
import { networkInterface } from './interface'
import { internet } from './internet'
import { local } from './local'
import { nat } from './nat'
import type { Appliance, NextHop, TargetFault } from './next-hop'
import { isAddressedTo } from './owner'
import { peering } from './peering'
import { serviceSwitch } from './service-switch'
import { transit } from './transit'

/**
 * Every kind of next hop. A kind that is added to `Target` is a type error until it is added here.
 */
export const NEXT_HOPS: { readonly [K in TargetKind]: NextHop<TargetOf<K>> } = {
  local,
  drop,
  internet,
  address,
  interface: networkInterface,
  gateway,
  nat,
  peering,
  transit,
  endpoint,
  inspect,
  'service-switch': serviceSwitch,
}

/**
 * The record of a next hop's kind: it takes just that kind, which the table above says by its type.
 */
const recordOf = (target: Target): NextHop => NEXT_HOPS[target.kind] as unknown as NextHop

/** A next hop in words. */
export const targetText = (target: Target): string => recordOf(target).text(target)

/** Why a next hop loses every packet handed to it in a network; null where it does not. */
export const faultOf = (model: Model, network: number, target: Target): TargetFault | null =>
  recordOf(target).fault(model, network, target)

/** The appliance a next hop leads to from a network; null where it leads to none. */
export const applianceAt = (model: Model, network: number, target: Target): Appliance | null =>
  recordOf(target).appliance(model, network, target)

/** The firewall a next hop leads to from a network; null where it leads to none. */
export function firewallAt(model: Model, network: number, target: Target): Appliance | null {
  const appliance = applianceAt(model, network, target)
  return appliance?.isFirewall ? appliance : null
}

/** Whether a next hop is an address or an interface, found by its owner. */
export const isOwned = ({ kind }: Target): boolean => NEXT_HOPS[kind].isOwned

/** What the outcome of a route depends on besides its sender. */
export const sweepKey = (route: RouteModel): string =>
  recordOf(route.target).sweepKey(route.target, route)

/** Whether a packet sent by a route leaves the subnet it is in. */
export const leavesSubnet = (
  context: WalkContext,
  state: State,
  subnet: number,
  { target }: RouteModel,
): boolean => recordOf(target).leavesSubnet(context, state, subnet, target)

/** Hands a packet to the next hop of the route that won (design part 3.2). */
export function followHop(
  context: WalkContext,
  state: State,
  from: HopFrom,
  route: RouteModel,
): Step {
  const { target } = route
  const record = recordOf(target)
  const hop = { from, route, target, table: blamedTable(context.model, route, from.subnet) }
  const fault = record.fault(context.model, from.network, target)
  const isTaken =
    fault === null ||
    fault.isLostThere === true ||
    (fault.sparedInterface !== undefined && isAddressedTo(context, state, fault.sparedInterface))
  if (isTaken) return record.follow(context, state, hop)
  const { code, object, beyond } = fault
  if (beyond === null) return lose(context, state, code, object ?? hop.table)
  return lose(context, state, code, object ?? hop.table, {
    what: beyond.assumed,
    then: (s) =>
      beyond.then === 'follow'
        ? (record.followBeyond ?? record.follow)(context, s, hop)
        : handOver(context, s, from.network),
  })
}

/** The table of the winning route; for built-in and learned routes the subnet. */
function blamedTable(model: Model, route: RouteModel, subnet: number): string {
  if (route.table >= 0) return model.tables[route.table]!.ref
  const own = model.subnets[subnet]!
  return route.origin === 'learned' && own.table >= 0 ? model.tables[own.table]!.ref : own.ref
}
