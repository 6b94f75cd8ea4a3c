import { formatAddress } from '../../address/address'
import type { FirewallSide, NetworkModel } from '../../model/model'
import { askHost } from '../ask-on-the-way'
import { translatesDestination } from './firewall'
import { reachFrontend } from './frontend'
import { beginTowardsNat } from './nat'
import { isValue, longestHere, noteAll, noteFor, ownerHere } from '../scope'
import { arriveAtAsker } from '../undo'
import { samePlace, type Place } from '../../rules/place'
import { changed, arrive, finish, leaveBy, lose } from '../next-state'
import type { End, State, Step, WalkContext } from '../state'

/** Hands a packet to the owner of its address in this network (design part 3.2, local). */
export function deliverLocally(
  context: WalkContext,
  state: State,
  index: number,
  fromSubnet: number,
): Step {
  const { model } = context
  const network = model.networks[index]!
  const { dst } = state.packet
  if (state.pendingNat >= 0) return cameBack(context, state, network)
  if (context.about === 'routes')
    return [finish(state, { in: 'network', network: index, fromSubnet, ref: network.ref })]
  // An answer to any host of the kind that is asked for finds its host in the same way.
  const atHome = context.answers !== null && context.home === index && state.fields.dst === 'src'
  const note = atHome ? undefined : noteFor(context, state, 'dst')
  const owner = ownerHere(network.owners, dst, note)
  if (owner?.kind === 'frontend') return reachFrontend(context, state, owner.index, fromSubnet)
  if (owner?.kind === 'nat') {
    const nat = model.nats[owner.index]!
    const latest = state.toUndo[0]
    return nat.subnet >= 0 && latest?.by === nat.ref && isValue(dst, latest.after, note)
      ? [changed(state, { next: { at: 'nat', nat: nat.index, fromSubnet } })]
      : beginTowardsNat(context, state, nat)
  }
  const subnetIndex = owner
    ? model.interfaces[owner.index]!.subnet
    : longestHere(network.subnetSpace, dst, note)[0]
  const subnet = subnetIndex === undefined ? undefined : model.subnets[subnetIndex]
  if (!subnet) {
    const lost = arrive(context, state, {
      at: network.ref,
      kind: 'delivery',
      decision: () => `no subnet of ${network.id} has ${formatAddress(dst)}`,
    })
    return lose(
      context,
      lost,
      'no-such-subnet',
      fromSubnet >= 0 ? model.subnets[fromSubnet]!.ref : network.ref,
    )
  }
  const place: Place = { subnet: subnet.index, interface: owner ? owner.index : -1 }
  const side = owner ? model.firewallAt.get(owner.index) : undefined
  if (side && owner && isForFirewall(context, state, side))
    return [changed(state, { next: { at: 'forwarder', interface: owner.index, fromSubnet } })]
  const one = owner ? model.interfaces[owner.index]! : null
  const ref = one?.ref ?? subnet.ref
  const take = (s: State): Step =>
    askHost(context, s, 'in', place, fromSubnet !== subnet.index, (asked) =>
      accept(context, asked, { in: 'subnet', place, ref }),
    )
  if (one ? one.up : subnet.up) return take(state)
  const down = arrive(context, state, { at: ref, kind: 'delivery', decision: 'it is not up' })
  return lose(context, down, 'interface-not-up', ref, { what: `${ref} is up`, then: take })
}

/** Out of a NAT a packet must leave by a door; this one came back inside instead. */
function cameBack(context: WalkContext, state: State, network: NetworkModel): Step {
  const nat = context.model.nats[state.pendingNat]!
  const { dst } = state.packet
  const back = arrive(context, state, {
    at: network.ref,
    kind: 'delivery',
    decision: () => `${formatAddress(dst)} is inside, and ${nat.id} leads outwards only`,
  })
  return lose(context, back, 'private-destination', nat.ref)
}

/**
 * A packet to a firewall's own address is its to send on where it translates it, or did so for the
 * flow it answers.
 */
function isForFirewall(context: WalkContext, state: State, side: FirewallSide): boolean {
  const { model, answers } = context
  const latest = state.toUndo[0]
  if (answers)
    return (
      latest?.kind === 'source' &&
      latest.by === model.firewalls[side.firewall]!.ref &&
      isValue(state.packet.dst, latest.after, noteFor(context, state, 'dst'))
    )
  return translatesDestination(model, side, state.packet, noteAll(context, state))
}

function accept(context: WalkContext, state: State, end: End & { in: 'subnet' }): Step {
  const { answers } = context
  const unoccupied = end.place.interface < 0
  const decision = answers
    ? 'the answer arrives'
    : unoccupied
      ? `${formatAddress(state.packet.dst)} is in this subnet; nobody has it yet`
      : 'accepted'
  const endpoint =
    end.place.interface < 0 ? undefined : context.model.endpointAt.get(end.place.interface)
  const service =
    endpoint === undefined ? undefined : context.model.estate.endpoints.get(endpoint)?.service
  if (endpoint !== undefined && service !== undefined && !answers) {
    const ref = `services/${service}`
    const passed = arrive(context, state, {
      at: `endpoints/${endpoint}`,
      kind: 'endpoint',
      decision: () => `to ${service}`,
    })
    const reached = arrive(context, passed, { at: ref, kind: 'delivery', decision })
    return [finish(leaveBy(reached, `endpoints/${endpoint}`), { ...end, ref })]
  }
  const there = arrive(context, state, { at: end.ref, kind: 'delivery', decision })
  if (answers) {
    const { asker } = answers
    const same = asker.in === 'subnet' && samePlace(asker.place, end.place)
    if (!same) return lose(context, there, 'answer-to-other-host', end.ref)
    return arriveAtAsker(context, there, end.ref)
  }
  return [finish(there, end)]
}
