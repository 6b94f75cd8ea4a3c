import { formatAddress } from '../../address/address'
import type { RouteModel } from '../../model/model'
import { lookUp, type LookUp } from '../../routes/look-up'
import { ownRoutes, type RoutesOfTable } from '../../routes/own-routes'
import { hasTagKey, tagKeysOf } from '../../rules/applies-to'
import { askEdge, askHost } from '../ask-on-the-way'
import { leavesSubnet } from '../next-hops/registry'
import { isPassedOver } from '../next-hop-owner'
import { publicAddressOf } from '../public-address'
import { changed, arrive, lose } from '../next-state'
import type { Sender, State, Step, WalkContext } from '../state'
import { handOver } from '../hand-over'
import { narrow, noteFor } from '../scope'
import { lookUpEvidence, routeText } from '../words'

/** A host, or what forwards for one, sends a packet into its subnet's routing. */
export function send(context: WalkContext, state: State, sender: Sender): Step {
  const { model } = context
  const { place } = sender
  const subnet = model.subnets[place.subnet]!
  const one = place.interface >= 0 ? model.interfaces[place.interface]! : null
  if (subnet.up && (one === null || one.up)) return route(context, state, sender)
  const object = one?.ref ?? subnet.ref
  return lose(context, state, 'interface-not-up', object, {
    what: `${object} is up`,
    then: (s) => route(context, s, sender),
  })
}

function route(context: WalkContext, state: State, sender: Sender): Step {
  const { model } = context
  const subnet = model.subnets[sender.place.subnet]!
  if (sender.handTo !== undefined) {
    const neighbour = sender.handTo
    return askHost(context, state, 'out', sender.place, false, (s) =>
      handToNeighbour(context, s, neighbour, subnet.index),
    )
  }
  const found = lookUp(
    model,
    subnet,
    state.packet.dst,
    {
      hasTag: (key) => hasTagKey(model, sender.place, key),
      // Evidence names every candidate, and why it lost.
      ...(context.evidence
        ? {}
        : {
            own: (table: RoutesOfTable) => ownRoutes(table, () => tagKeysOf(model, sender.place)),
          }),
      hasPublicAddress: () =>
        sender.kind === 'nat' ||
        publicAddressOf(model, subnet.network, state.packet.src, noteFor(context, state, 'src')) !==
          null,
    },
    (candidate) => !isPassedOver(model, subnet.network, candidate.target),
  )
  narrow(context, state, 'dst', found)
  const choices: (RouteModel | null)[] = found.winners.length === 0 ? [null] : [...found.winners]
  return choices.flatMap((winner) => {
    const crosses =
      context.about === 'packets' &&
      (winner === null || leavesSubnet(context, state, sender.place.subnet, winner))
    const then = (s: State): Step => lookedUp(context, s, sender, found, winner)
    if (sender.kind === 'host' || sender.kind === 'appliance')
      return askHost(context, state, 'out', sender.place, crosses, then)
    return crosses ? askEdge(context, state, 'out', sender.place.subnet, then) : then(state)
  })
}

/** Straight to a neighbour in the subnet, which must take it. */
function handToNeighbour(context: WalkContext, state: State, index: number, subnet: number): Step {
  const one = context.model.interfaces[index]!
  const reach = (s: State): Step => [
    changed(s, { next: { at: 'forwarder', interface: index, fromSubnet: subnet } }),
  ]
  if (!one.up)
    return lose(context, state, 'next-hop-not-up', one.ref, {
      what: `${one.id} is up`,
      then: reach,
    })
  if (!one.forwards)
    return lose(context, state, 'next-hop-not-forwarding', one.ref, {
      what: `${one.id} forwards`,
      then: reach,
    })
  return reach(state)
}

/** The station of a look-up, then the winner's next hop. */
function lookedUp(
  context: WalkContext,
  state: State,
  sender: Sender,
  found: LookUp,
  winner: RouteModel | null,
): Step {
  const { model } = context
  const subnet = model.subnets[sender.place.subnet]!
  const at = subnet.table >= 0 ? model.tables[subnet.table]!.ref : subnet.ref
  const decision = (): string =>
    winner === null
      ? `no route covers ${formatAddress(state.packet.dst)}`
      : routeText(winner, found.winners.length)
  const looked = arrive(context, state, {
    at,
    kind: 'lookup',
    decision,
    evidence: () => lookUpEvidence(model, subnet, state.packet.dst, found, winner),
  })
  if (winner !== null)
    return [
      changed(looked, {
        next: {
          at: 'hop',
          from: { network: subnet.network, subnet: subnet.index, ref: sender.ref },
          route: winner,
        },
      }),
    ]
  return lose(context, looked, 'no-route', at, {
    what: 'a route leads there',
    then: (s) => handOver(context, s, subnet.network),
  })
}
