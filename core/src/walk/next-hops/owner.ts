import { changed } from '../next-state'
import type { Model } from '../../model/model'
import type { TargetOf } from '../../model/targets'
import { nextHopOwner } from '../next-hop-owner'
import { isValue, noteFor } from '../scope'
import type { Next, State, Step, WalkContext } from '../state'
import { crossPeering, peeringBetween } from '../steps/peering'
import type { Appliance, Hop, TargetFault } from './next-hop'

/**
 * What `address` and `interface` share: both lead to the interface that has, or is, the next hop.
 */
type Owned = TargetOf<'address'> | TargetOf<'interface'>

/** Why the owner of a next hop loses packets; null where it does not. */
export function ownerFault(model: Model, network: number, target: Owned): TargetFault | null {
  const { fault, interface: index } = nextHopOwner(model, network, target)
  if (fault === null) return null
  const beyond = { assumed: 'the next hop takes the packet', then: 'hand-over' } as const
  const spares = fault.code === 'next-hop-not-forwarding' && index >= 0
  return { ...fault, beyond, ...(spares ? { sparedInterface: index } : {}) }
}

/** The appliance that owns a next hop; null where it has no owner. */
export function ownerAppliance(model: Model, network: number, target: Owned): Appliance | null {
  const owner = nextHopOwner(model, network, target)
  const one = model.interfaces[owner.interface]
  if (!one) return null
  const side = model.firewallAt.get(owner.interface)
  const ref = side ? model.firewalls[side.firewall]!.ref : one.ref
  const subnet = owner.subnet < 0 ? null : owner.subnet
  return { ref, isFirewall: side !== undefined, subnet }
}

/** Whether the owner of a next hop is in another subnet. */
export const leavesOwnersSubnet = (
  { model }: WalkContext,
  _: State,
  subnet: number,
  target: Owned,
): boolean => nextHopOwner(model, model.subnets[subnet]!.network, target).subnet !== subnet

/** To the owner of the next hop, over a peering where it is in another network. */
export function followToOwner(context: WalkContext, state: State, hop: Hop<Owned>): Step {
  const { network, subnet } = hop.from
  const { model } = context
  const owner = nextHopOwner(model, network, hop.target)
  const fromSubnet = owner.network === network ? subnet : -1
  const next: Next = isAddressedTo(context, state, owner.interface)
    ? { at: 'local', network: owner.network, fromSubnet }
    : { at: 'forwarder', interface: owner.interface, fromSubnet }
  const reach = (s: State): Step => [changed(s, { next })]
  const far = owner.network === network ? null : peeringBetween(model, network, owner.network)
  return far === null ? reach(state) : crossPeering(context, state, far, network, 'next-hop', reach)
}

/** Whether a packet is addressed to an interface, which then takes it and forwards nothing. */
export function isAddressedTo(context: WalkContext, state: State, index: number): boolean {
  const note = noteFor(context, state, 'dst')
  const addresses = context.model.interfaces[index]?.addresses ?? []
  return addresses.some((address) => isValue(state.packet.dst, address, note))
}
