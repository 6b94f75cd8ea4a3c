import { formatAddress } from '../../address/address'
import { formatPrefix, type Prefix } from '../../address/prefix'
import { containsAddress } from '../../address/prefix'
import { attachmentRanges } from '../../model/learned'
import type { Model, TransitModel } from '../../model/model'
import { destinationPrefixes } from '../../model/routes'
import { askEdge } from '../ask-on-the-way'
import { arrive, lose, type HopFrom, type Sender, type State, type Step, type WalkContext } from '../state'
import { leaveByPrivateGateway } from './site'

const isUp = (object: { readonly state?: string } | undefined): boolean => object !== undefined && (object.state ?? 'up') === 'up'

/** A network's attachment to a transit with its name; null where it has none. */
export function attachmentOf(model: Model, transit: TransitModel, network: number) {
  const { id } = model.networks[network]!
  return Object.entries(transit.source.attachments ?? {}).find(([, a]) => a.network === id && a.state !== 'deleted') ?? null
}

/** A route of a subnet led to a transit that is up: the packet takes the attachment of its network. */
export function enterTransitFromNetwork(context: WalkContext, state: State, transit: TransitModel, from: HopFrom): Step {
  const { model } = context
  const zone = model.subnets[from.subnet]?.zone ?? null
  const [name, attachment] = attachmentOf(model, transit, from.network)!
  const enter = (s: State): Step => [{ ...s, next: { at: 'transit', transit: transit.index, attachment: name } }]
  const at = (decision: string): State => arrive(context, state, { at: transit.ref, kind: 'transit', decision })
  if (!isUp(attachment)) return lose(context, at(`its attachment ${name} is not up`), 'target-not-up', transit.ref, { what: `${name} is up`, then: enter })
  const listed = subnetsOf(model, attachment.subnets)
  const zones = new Set(listed.flatMap((s) => s.zone ?? []))
  if (zones.size > 1 && zone !== null && !zones.has(zone)) {
    return lose(context, at(`${name} has no subnet in ${zone}`), 'transit-not-in-zone', transit.ref, { what: `it serves ${zone}`, then: enter })
  }
  const edge = listed.find((s) => s.zone === zone) ?? listed[0]
  if (!edge || edge.index === from.subnet) return enter(state)
  return askEdge(context, state, 'in', edge.index, state.packet, (s) => askEdge(context, s, 'out', edge.index, s.packet, enter))
}

const subnetsOf = (model: Model, ids: readonly string[] | undefined) => (ids ?? []).flatMap((id) => model.subnets[model.index.subnets.get(id) ?? -1] ?? [])

interface TransitRoute {
  readonly prefix: Prefix
  readonly via: string
  readonly learned: boolean
}

/** Into a transit by an attachment: its table decides, longest prefix first, written before learned. */
export function enterTransit(context: WalkContext, state: State, index: number, attachment: string): Step {
  const { model } = context
  const transit = model.transits[index]!
  const { dst } = state.packet
  const routes = routesOf(model, transit, attachment).filter((route) => containsAddress(route.prefix, dst))
  const ordered = [...routes].sort((a, b) => b.prefix.length - a.prefix.length || Number(a.learned) - Number(b.learned))
  const best = ordered[0]
  const winners = ordered.filter((route) => route.prefix.length === best!.prefix.length && route.learned === best!.learned)
  const evidence = (): object => ({
    table: transit.source.attachments?.[attachment]?.table ?? null,
    address: formatAddress(dst),
    candidates: ordered.map((route) => ({
      to: formatPrefix(route.prefix),
      via: route.via,
      origin: route.learned ? 'learned' : 'table',
      outcome: winners.includes(route) ? 'won' : 'lost',
    })),
  })
  const at = (decision: string): State => arrive(context, state, { at: transit.ref, kind: 'transit', decision, evidence })
  if (!transit.up) return lose(context, at('it is not up'), 'target-not-up', transit.ref)
  if (!best) return lose(context, at(`the table of ${attachment} has no route for ${formatAddress(dst)}`), 'no-route', transit.ref)
  return winners.flatMap((route): Step => {
    const decided = at(`${attachment}: ${formatPrefix(route.prefix)} ${route.learned ? 'learned' : 'wins'}, by ${route.via}`)
    if (route.via === 'drop') return lose(context, decided, 'drop-route', transit.ref)
    return leave(context, decided, transit, route.via)
  })
}

function routesOf(model: Model, transit: TransitModel, attachment: string): TransitRoute[] {
  const name = transit.source.attachments?.[attachment]?.table
  const table = name === undefined ? undefined : transit.source.tables?.[name]
  if (!table || !isUp(table)) return []
  const written = (table.routes ?? [])
    .filter((route) => isUp(route))
    .flatMap((route) => destinationPrefixes(model.estate, route.to).map((prefix) => ({ prefix, via: route.via, learned: false })))
  const from = table.learn === 'all' ? Object.keys(transit.source.attachments ?? {}) : Array.isArray(table.learn) ? table.learn : []
  const learned = from.flatMap((other) => attachmentRanges(model.estate, transit.source, other).map((prefix) => ({ prefix, via: other, learned: true })))
  return [...written, ...learned]
}

/** Out of a transit by an attachment: into a network, to a site, or into another transit. */
function leave(context: WalkContext, state: State, transit: TransitModel, name: string): Step {
  const { model } = context
  const attachment = transit.source.attachments?.[name]
  if (!attachment || attachment.state === 'deleted') return lose(context, state, 'target-missing', transit.ref)
  if (!isUp(attachment)) return lose(context, state, 'target-not-up', transit.ref)
  if (attachment.gateway !== undefined) {
    const gateway = model.gateways[model.index.gateways.get(attachment.gateway) ?? -1]
    if (!gateway) return lose(context, state, 'target-missing', transit.ref)
    if (!gateway.up)
      return lose(context, state, 'target-not-up', gateway.ref, { what: `${gateway.id} is up`, then: (s) => leaveByPrivateGateway(context, s, gateway) })
    return leaveByPrivateGateway(context, state, gateway)
  }
  if (attachment.transit !== undefined) {
    const other = model.transits[model.index.transits.get(attachment.transit) ?? -1]
    if (!other) return lose(context, state, 'target-missing', transit.ref)
    const back = Object.entries(other.source.attachments ?? {}).find(([, a]) => a.transit === transit.id && isUp(a))
    if (!back) return lose(context, state, 'target-elsewhere', other.ref)
    return [{ ...state, next: { at: 'transit', transit: other.index, attachment: back[0] } }]
  }
  const network = model.networks[model.index.networks.get(attachment.network ?? '') ?? -1]
  if (!network) return lose(context, state, 'target-missing', transit.ref)
  return intoNetwork(context, state, transit, network.index, subnetsOf(model, attachment.subnets))
}

/** By the attached subnet of the destination's zone, else the first listed, and on by that subnet's table. */
function intoNetwork(context: WalkContext, state: State, transit: TransitModel, network: number, listed: ReturnType<typeof subnetsOf>): Step {
  const { model } = context
  const home = model.networks[network]!.subnets.map((i) => model.subnets[i]!).find((s) => s.allRanges.some((range) => containsAddress(range, state.packet.dst)))
  const edge = listed.find((s) => s.zone !== null && s.zone === home?.zone) ?? listed[0]
  if (!edge) return [{ ...state, next: { at: 'local', network, fromSubnet: -1 } }]
  if (!edge.up) return lose(context, state, 'target-not-up', transit.ref)
  const sender: Sender = { kind: 'edge', place: { subnet: edge.index, interface: -1 }, ref: edge.ref }
  return askEdge(context, state, 'in', edge.index, state.packet, (s) => [{ ...s, next: { at: 'send', sender } }])
}
