import { derived } from '../../incremental/derived'
import { formatAddress } from '../../address/address'
import { formatPrefix } from '../../address/prefix'
import { matchAll } from '../../address/prefix-table'
import type { Model, TransitModel } from '../../model/model'
import { askEdge } from '../ask-on-the-way'
import { longestHere, narrow, noteFor } from '../scope'
import { changed, arrive, lose, type Said } from '../next-state'
import type { HopFrom, Sender, State, Step, WalkContext } from '../state'
import { leaveByPrivateGateway } from './private-gateway'

/** Whether an attachment is there and up. */
export const isUp = (object: { readonly state?: string } | undefined): boolean =>
  object !== undefined && (object.state ?? 'up') === 'up'

/** The attachment of a network; undefined where the transit has none. */
export const attachmentOf = (transit: TransitModel, network: number) =>
  transit.source.attachments?.[transit.attachmentOf.get(network) ?? '']

/**
 * A route of a subnet led to a transit that is up: the packet takes the attachment of its network.
 */
export function enterTransitFromNetwork(
  context: WalkContext,
  state: State,
  transit: TransitModel,
  from: HopFrom,
): Step {
  const { model } = context
  const zone = model.subnets[from.subnet]?.zone ?? null
  const name = transit.attachmentOf.get(from.network)!
  const attachment = attachmentOf(transit, from.network)
  const enter = (s: State): Step => [
    changed(s, { next: { at: 'transit', transit: transit.index, attachment: name } }),
  ]
  const at = (decision: Said): State =>
    arrive(context, state, { at: transit.ref, kind: 'transit', decision })
  if (!isUp(attachment))
    return lose(
      context,
      at(() => `its attachment ${name} is not up`),
      'target-not-up',
      transit.ref,
      { what: `${name} is up`, then: enter },
    )
  const listed = edgesOf(model, transit.index, name)
  const zones = new Set(listed.flatMap((s) => s.zone ?? []))
  if (zones.size > 1 && zone !== null && !zones.has(zone)) {
    return lose(
      context,
      at(() => `${name} has no subnet in ${zone}`),
      'transit-not-in-zone',
      transit.ref,
      { what: `it serves ${zone}`, then: enter },
    )
  }
  const edge = listed.find((s) => s.zone === zone) ?? listed[0]
  if (!edge || edge.index === from.subnet) return enter(state)
  return askEdge(context, state, 'in', edge.index, (s) =>
    askEdge(context, s, 'out', edge.index, enter),
  )
}

/** A subnet a transit is attached to a network by. */
interface Edge {
  readonly index: number
  readonly zone: string | null
}

const zoneOf = derived(
  (model: Model, subnet: number): string | null => model.subnets[subnet]?.zone ?? null,
  { same: Object.is },
)

const edgesOf = derived(
  (model: Model, transit: number, attachment: string): readonly Edge[] =>
    (model.transits[transit]!.source.attachments?.[attachment]?.subnets ?? []).flatMap(
      (id): Edge[] => {
        const subnet = model.subnets[model.index.subnets.get(id) ?? -1]
        return subnet ? [{ index: subnet.index, zone: subnet.zone }] : []
      },
    ),
  {
    same: (a, b) =>
      a.length === b.length &&
      a.every((one, at) => one.index === b[at]!.index && one.zone === b[at]!.zone),
  },
)

/**
 * Into a transit by an attachment: its table decides, longest prefix first, written before learned.
 */
export function enterTransit(
  context: WalkContext,
  state: State,
  index: number,
  attachment: string,
): Step {
  const { model } = context
  const transit = model.transits[index]!
  const { dst } = state.packet
  const table = transit.tables.get(transit.source.attachments?.[attachment]?.table ?? '')
  const found = table && matchAll(table, dst)
  const groups = (found?.groups ?? []).map((group) =>
    [...group.values].sort((a, b) => Number(a.learned) - Number(b.learned)),
  )
  const best = groups[0]?.[0]
  const winners = (groups[0] ?? []).filter((route) => route.learned === best!.learned)
  const evidence = (): object => ({
    table: transit.source.attachments?.[attachment]?.table ?? null,
    address: formatAddress(dst),
    candidates: groups.flat().map((route) => ({
      to: formatPrefix(route.prefix),
      via: route.via,
      origin: route.learned ? 'learned' : 'table',
      outcome: winners.includes(route) ? 'won' : 'lost',
    })),
  })
  if (found) narrow(context, state, 'dst', found)
  const at = (decision: Said): State =>
    arrive(context, state, { at: transit.ref, kind: 'transit', decision, evidence })
  if (!transit.up) return lose(context, at('it is not up'), 'target-not-up', transit.ref)
  if (!best)
    return lose(
      context,
      at(() => `the table of ${attachment} has no route for ${formatAddress(dst)}`),
      'no-route',
      transit.ref,
    )
  return winners.flatMap((route): Step => {
    const decided = at(
      () =>
        `${attachment}: ${formatPrefix(route.prefix)} ${route.learned ? 'learned' : 'wins'}, by ${route.via}`,
    )
    if (route.via === 'drop') return lose(context, decided, 'drop-route', transit.ref)
    return leave(context, decided, transit, route.via)
  })
}

/** Out of a transit by an attachment: into a network, to a site, or into another transit. */
function leave(context: WalkContext, state: State, transit: TransitModel, name: string): Step {
  const { model } = context
  const attachment = transit.source.attachments?.[name]
  if (!attachment || attachment.state === 'deleted')
    return lose(context, state, 'target-missing', transit.ref)
  if (!isUp(attachment)) return lose(context, state, 'target-not-up', transit.ref)
  if (attachment.gateway !== undefined) {
    const gateway = model.gateways[model.index.gateways.get(attachment.gateway) ?? -1]
    if (!gateway) return lose(context, state, 'target-missing', transit.ref)
    if (!gateway.up)
      return lose(context, state, 'target-not-up', gateway.ref, {
        what: `${gateway.id} is up`,
        then: (s) => leaveByPrivateGateway(context, s, gateway),
      })
    return leaveByPrivateGateway(context, state, gateway)
  }
  if (attachment.transit !== undefined) {
    const other = model.transits[model.index.transits.get(attachment.transit) ?? -1]
    if (!other) return lose(context, state, 'target-missing', transit.ref)
    const back = other.towards.get(transit.id)
    if (back === undefined) return lose(context, state, 'target-elsewhere', other.ref)
    return [changed(state, { next: { at: 'transit', transit: other.index, attachment: back } })]
  }
  const network = model.networks[model.index.networks.get(attachment.network ?? '') ?? -1]
  if (!network) return lose(context, state, 'target-missing', transit.ref)
  return intoNetwork(context, state, transit, network.index, edgesOf(model, transit.index, name))
}

/**
 * By the attached subnet of the destination's zone, else the first listed, and on by that subnet's
 * table.
 */
function intoNetwork(
  context: WalkContext,
  state: State,
  transit: TransitModel,
  network: number,
  listed: readonly Edge[],
): Step {
  const { model } = context
  const zones = new Set(listed.map((s) => s.zone))
  const home =
    zones.size < 2
      ? null
      : zoneOf(
          model,
          longestHere(
            model.networks[network]!.subnetSpace,
            state.packet.dst,
            noteFor(context, state, 'dst'),
          )[0] ?? -1,
        )
  // Where all attached subnets are in one zone it does not matter where the destination is.
  const { index } = listed.find((s) => s.zone !== null && s.zone === home) ?? listed[0] ?? {}
  if (index === undefined)
    return [changed(state, { next: { at: 'local', network, fromSubnet: -1 } })]
  const edge = model.subnets[index]!
  if (!edge.up) return lose(context, state, 'target-not-up', transit.ref)
  const sender: Sender = {
    kind: 'edge',
    place: { subnet: edge.index, interface: -1 },
    ref: edge.ref,
  }
  return askEdge(context, state, 'in', edge.index, (s) => [
    changed(s, { next: { at: 'send', sender } }),
  ])
}
