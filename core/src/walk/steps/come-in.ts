import { familyOf, formatAddress, lowestOf, type Address } from '../../address/address'
import { matchAll } from '../../address/prefix-table'
import type { GatewayModel, Model, NatModel, NetworkModel, Owner } from '../../model/model'
import { routeText } from '../words'
import { beginTowardsNat } from './nat'
import { changed, arrive, lose, type Said } from '../next-state'
import type { State, Step, Translation, WalkContext } from '../state'

import { isValue, longestHere, matchHere, noteFor } from '../scope'
import { undoLatest } from '../undo'
import { oneToOneOf } from '../one-to-one'

/** In from the internet to a public address of the estate (design part 3.2). */
export function comeInToAddress(context: WalkContext, state: State, owner: Owner): Step {
  const { model } = context
  const latest = state.toUndo[0]
  if (owner.kind === 'nat') return comeInToNat(context, state, model.nats[owner.index]!)
  if (owner.kind === 'one-to-one' && latest) {
    const network = model.networks[owner.index]!
    const undone = undoLatest(state)
    const subnet =
      longestHere(network.subnetSpace, latest.before, noteFor(context, undone, 'dst'))[0] ?? -1
    return throughDoor(context, state, network, subnet, (s, door) =>
      intoNetwork(
        context,
        undoLatest(s),
        network,
        door,
        `${formatAddress(latest.after)} becomes ${formatAddress(latest.before)} again`,
      ),
    )
  }
  if (owner.kind === 'firewall') {
    const one = model.interfaces[owner.index]!
    const subnet = model.subnets[one.subnet]!
    return throughDoor(context, state, model.networks[subnet.network]!, subnet.index, (s, door) => {
      const entered = byGateway(context, s, door, one.id)
      return [changed(entered, { next: { at: 'forwarder', interface: one.index, fromSubnet: -1 } })]
    })
  }
  const one =
    owner.kind === 'frontend' ? model.frontends[owner.index]! : model.interfaces[owner.index]!
  const subnet = model.subnets[one.subnet]
  const network = subnet && model.networks[subnet.network]
  const inside = one.addresses.find((address) => typeof address === 'number')
  if (!network || inside === undefined) return lose(context, state, 'interface-not-up', one.ref)
  return throughDoor(context, state, network, one.subnet, (s, door) => {
    const translated = toPrivate(s, network, inside)
    const decision = () =>
      `${formatAddress(s.packet.dst)} becomes ${formatAddress(translated.packet.dst)}, one to one`
    return intoNetwork(context, translated, network, door, decision)
  })
}

/** An answer to an address of a NAT goes in to it, and the translation is undone there. */
function comeInToNat(context: WalkContext, state: State, nat: NatModel): Step {
  const latest = state.toUndo[0]
  const network = context.model.networks[nat.network]
  if (
    latest?.by !== nat.ref ||
    !network ||
    !isValue(state.packet.dst, latest.after, noteFor(context, state, 'dst'))
  )
    return beginTowardsNat(context, state, nat)
  return throughDoor(context, state, network, nat.subnet, (s, door) => {
    const entered = byGateway(context, s, door, nat.id)
    if (nat.subnet >= 0)
      return [changed(entered, { next: { at: 'nat', nat: nat.index, fromSubnet: -1 } })]
    const undone = undoLatest(entered)
    const decision = () =>
      `${formatAddress(state.packet.dst)} becomes ${formatAddress(undone.packet.dst)} again`
    const back = arrive(context, undone, { at: nat.ref, kind: 'nat', decision })
    return [changed(back, { next: { at: 'local', network: network.index, fromSubnet: -1 } })]
  })
}

/** The packet at the gateway by which it enters, if it needs one to get to its target. */
const byGateway = (
  context: WalkContext,
  state: State,
  door: GatewayModel | null,
  target: string,
): State =>
  door === null
    ? state
    : arrive(context, state, {
        at: door.ref,
        kind: 'gateway',
        decision: () => `hands it to ${target}`,
      })

/** The one-to-one translation inwards, made for a new flow. */
function toPrivate(state: State, network: NetworkModel, inside: Address): State {
  const made: Translation = {
    by: oneToOneOf(network),
    kind: 'destination',
    before: state.packet.dst,
    after: inside,
    origin: { address: state.fields.dst, port: null },
  }
  return changed(state, {
    packet: { ...state.packet, dst: inside },
    fields: { ...state.fields, dst: null },
    translations: [...state.translations, made],
  })
}

/**
 * In from the internet to an address of a network's own ranges: global IPv6, or public IPv4 it
 * brought along.
 */
export function comeInToNetwork(context: WalkContext, state: State, index: number): Step {
  const { model } = context
  const network = model.networks[index]!
  const subnet =
    longestHere(network.subnetSpace, state.packet.dst, noteFor(context, state, 'dst'))[0] ?? -1
  return throughDoor(context, state, network, subnet, (s, door) =>
    intoNetwork(context, s, network, door, 'the address needs no translation'),
  )
}

/**
 * Finds the door by which traffic from the internet enters a network, and refuses where there is
 * none.
 */
function throughDoor(
  context: WalkContext,
  state: State,
  network: NetworkModel,
  subnet: number,
  then: (state: State, door: GatewayModel | null) => Step,
): Step {
  const { model } = context
  const family = familyOf(state.packet.dst)
  const at = model.attached.gateways.get(network.index) ?? []
  const all = at.filter((g) => g.kind === 'internet' || (g.kind === 'outbound-v6' && family === 6))
  const up = network.up ? all.filter((g) => g.up) : []
  const byDefault = defaultRouteGateway(model, subnet, family)
  const doors = up.filter((g) => g.kind === 'internet')
  // What lets only answers in is a door for answers.
  const door =
    (context.answers ? up : doors).find((g) => g.index === byDefault) ?? doors[0] ?? up[0]
  if (network.behaviour === 'default-open' && door?.index !== byDefault)
    return then(builtInDoor(context, state), null)
  if (!door) {
    if (network.behaviour !== 'table-routed') return then(builtInDoor(context, state), null)
    const object = all[0]?.ref ?? network.ref
    const lost = arrive(context, state, {
      at: network.ref,
      kind: 'delivery',
      decision: 'no internet gateway of this network is up',
    })
    return lose(context, lost, 'no-internet-gateway', object, {
      what: 'the network has an internet gateway',
      then: (s) => then(s, null),
    })
  }
  if (door.kind === 'outbound-v6' && context.answers === null) {
    const met = arrive(context, state, {
      at: door.ref,
      kind: 'gateway',
      decision: 'lets only flows begun inside through',
    })
    return lose(context, met, 'gateway-outbound-only', door.ref, {
      what: 'it lets flows in',
      then: (s) => then(s, door),
    })
  }
  return then(state, door)
}

/** The way in that needs no gateway. */
function builtInDoor(context: WalkContext, state: State): State {
  return arrive(context, state, {
    at: 'internet',
    kind: 'internet',
    decision: 'enters by the built-in way',
  })
}

/** The gateway in a subnet's default route, or −1. */
function defaultRouteGateway(model: Model, subnet: number, family: 4 | 6): number {
  const table = subnet < 0 ? -1 : model.subnets[subnet]!.table
  if (table < 0) return -1
  const routes =
    matchAll(model.tables[table]!.routes, lowestOf(family)).groups.find(
      (group) => group.prefix.length === 0,
    )?.values ?? []
  const route = routes.find((r) => r.state === 'up' && r.target.kind === 'gateway')
  return route?.target.kind === 'gateway' ? route.target.index : -1
}

/** Past the door: its own table decides for the inside address, and local where it says nothing. */
function intoNetwork(
  context: WalkContext,
  state: State,
  network: NetworkModel,
  door: GatewayModel | null,
  decision: Said,
): Step {
  const local = (s: State): Step => [
    changed(s, { next: { at: 'local', network: network.index, fromSubnet: -1 } }),
  ]
  if (door === null) return local(state)
  return consultIngress(
    context,
    arrive(context, state, { at: door.ref, kind: 'gateway', decision }),
    door,
    local,
  )
}

/**
 * Asks the table of the gateway a packet came in by; where it has none, or says nothing, `local`
 * goes on.
 */
export function consultIngress(
  context: WalkContext,
  state: State,
  door: GatewayModel,
  local: (state: State) => Step,
): Step {
  const { model } = context
  const table = door.table < 0 ? undefined : model.tables[door.table]
  if (!table) return local(state)
  const groups = matchHere(
    table.routes,
    state.packet.dst,
    noteFor(context, state, 'dst'),
  ).groups.map((group) => group.values.filter((route) => route.state === 'up'))
  const routes = groups.find((group) => group.length > 0) ?? []
  const at = (decision: Said): State =>
    arrive(context, state, { at: table.ref, kind: 'lookup', decision })
  if (routes.length === 0)
    return local(
      at(() => `${table.id} has no route for ${formatAddress(state.packet.dst)}, so it is local`),
    )
  return routes.flatMap((route): Step => {
    const looked = at(() => routeText(route, routes.length))
    if (route.target.kind === 'local') return local(looked)
    return [
      {
        ...looked,
        next: { at: 'hop', from: { network: door.network, subnet: -1, ref: door.ref }, route },
      },
    ]
  })
}
