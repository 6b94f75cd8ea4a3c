import type { GatewayModel, Model, NatModel, PeeringModel, RouteModel } from '../../model/model'
import { handOver } from '../hand-over'
import { nextHopOwner, type NextHopOwner } from '../next-hop'
import { isValue, noteFor } from '../scope'
import {
  lose,
  type HopFrom,
  type IfMended,
  type Next,
  type State,
  type Step,
  type WalkContext,
} from '../state'
import { leaveByGateway } from './gateway'
import { leaveByBuiltInDoor } from './internet'
import { enterEndpoint, switchToService } from './endpoint'
import { enterInspect } from './inspect'
import { enterNatByRoute } from './nat'
import { crossPeering, otherSide, peeringBetween } from './peering'
import { leaveByPrivateGateway } from './site'
import { enterTransitFromNetwork } from './transit'

/** Hands a packet to the next hop of the route that won (design part 3.2). One case for each kind of target. */
export function followHop(
  context: WalkContext,
  state: State,
  from: HopFrom,
  route: RouteModel,
): Step {
  const { model } = context
  const { target } = route
  const { network, subnet } = from
  const table = tableRef(model, route, subnet)
  const otherwise: IfMended = {
    what: 'the route leads there',
    then: (s) => handOver(context, s, network),
  }
  switch (target.kind) {
    case 'local':
      return [{ ...state, next: { at: 'local', network, fromSubnet: subnet } }]
    case 'drop':
      return lose(context, state, 'drop-route', table, {
        ...otherwise,
        what: 'the packet is not dropped',
      })
    case 'internet':
      return leaveByBuiltInDoor(context, state, network, subnet)
    case 'gateway':
      return onTarget(
        context,
        state,
        table,
        network,
        model.gateways[target.index],
        otherwise,
        (s, gateway) =>
          gateway.kind === 'private'
            ? leaveByPrivateGateway(context, s, gateway)
            : leaveByGateway(context, s, gateway.index),
      )
    case 'nat':
      return onTarget(
        context,
        state,
        table,
        network,
        model.nats[target.index],
        otherwise,
        (s, nat) => enterNatByRoute(context, s, nat, subnet),
      )
    case 'address':
    case 'interface': {
      const owner = nextHopOwner(model, network, target)
      const near = owner.network === network ? subnet : -1
      const itself = isDestination(context, state, owner)
      if (owner.fault !== null && !itself)
        return lose(context, state, owner.fault.code, owner.fault.object ?? table, {
          ...otherwise,
          what: 'the next hop takes the packet',
        })
      const next: Next = itself
        ? { at: 'local', network: owner.network, fromSubnet: near }
        : { at: 'forwarder', interface: owner.interface, fromSubnet: near }
      const reach = (s: State): Step => [{ ...s, next }]
      const peering =
        owner.network === network ? null : peeringBetween(model, network, owner.network)
      return peering === null
        ? reach(state)
        : crossPeering(context, state, peering, network, 'next-hop', reach)
    }
    case 'peering': {
      const peering = model.peerings[target.index]
      const attached = peering && {
        ...peering,
        network: peering.a.network === network || peering.b.network === network ? network : -1,
      }
      return onTarget<PeeringModel & { network: number }>(
        context,
        state,
        table,
        network,
        attached,
        otherwise,
        (s, p) => crossTo(context, s, p, network, route),
      )
    }
    case 'transit': {
      const transit = model.transits[target.index]
      const attached = transit && {
        ...transit,
        network: transit.attachmentOf.has(network) ? network : -1,
      }
      return onTarget(context, state, table, network, attached, otherwise, (s, t) =>
        enterTransitFromNetwork(context, s, t, from),
      )
    }
    case 'inspect':
      return enterInspect(context, state, target, table, network, subnet)
    case 'endpoint':
      return enterEndpoint(context, state, target.id, table, network, subnet)
    case 'service-switch':
      return switchToService(context, state, target.id, network)
  }
}

/** Whether a packet is addressed to its next hop, which then takes it and need not forward anything. */
function isDestination(
  context: WalkContext,
  state: State,
  { interface: index, fault }: NextHopOwner,
): boolean {
  if (index < 0 || (fault !== null && fault.code !== 'next-hop-not-forwarding')) return false
  const note = noteFor(context, state, 'dst')
  return context.model.interfaces[index]!.addresses.some((address) =>
    isValue(state.packet.dst, address, note),
  )
}

/** Over a peering: straight to the other network, or by the gateway it lends. */
function crossTo(
  context: WalkContext,
  state: State,
  peering: PeeringModel,
  network: number,
  route: RouteModel,
): Step {
  const { model } = context
  const other = otherSide(peering, network)
  const lent =
    route.origin === 'learned'
      ? model.gateways[model.index.gateways.get(route.learnedFrom!.slice('gateways/'.length)) ?? -1]
      : undefined
  if (lent)
    return crossPeering(context, state, peering, network, 'lent', (s) =>
      leaveByPrivateGateway(context, s, lent),
    )
  return crossPeering(context, state, peering, network, 'destination', (s) => [
    { ...s, next: { at: 'local', network: other, fromSubnet: -1 } },
  ])
}

/** The table of the winning route; for built-in and learned routes the subnet. */
function tableRef(model: Model, route: RouteModel, subnet: number): string {
  if (route.table >= 0) return model.tables[route.table]!.ref
  const own = model.subnets[subnet]!
  return route.origin === 'learned' && own.table >= 0 ? model.tables[own.table]!.ref : own.ref
}

type Attached = (GatewayModel | NatModel | PeeringModel | { ref: string; up: boolean }) & {
  readonly network: number
  readonly ref: string
  readonly up: boolean
}

/** The checks every named target has: it is there, belongs to this network, and is up. */
function onTarget<T extends Attached>(
  context: WalkContext,
  state: State,
  table: string,
  network: number,
  target: T | undefined,
  otherwise: IfMended,
  then: (state: State, target: T) => Step,
): Step {
  if (!target) return lose(context, state, 'target-missing', table, otherwise)
  const goOn = (what: string): IfMended => ({
    what: `${target.ref} ${what}`,
    then: (s) => then(s, target),
  })
  if (target.network !== network) {
    const where = target.network < 0 ? 'is attached to this network' : 'belongs to this network'
    return lose(context, state, 'target-elsewhere', target.ref, {
      ...otherwise,
      what: `${target.ref} ${where}`,
    })
  }
  if (!target.up) return lose(context, state, 'target-not-up', target.ref, goOn('is up'))
  return then(state, target)
}
