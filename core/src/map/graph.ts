import { formatAddress } from '../address/address'
import { formatPrefix } from '../address/prefix'
import type { Model } from '../model/model'
import type { TargetKind } from '../model/targets'
import { NEXT_HOPS } from '../walk/next-hops/registry'
import { alikeWords, type AlikeNetworks } from './alike'
import { drawingOf, type Drawing } from './drawing'
import type { EstateGraph, MapColumn } from './node'

/** Above so many subnets networks are one mark each. */
export const MOST_UNFOLDED = 60
/** More firewalls than these are part of their networks' marks. */
const MOST_WALLS = 24
/** Above so many sites, parties or services they are one mark together. */
export const MOST_OUTSIDE = 6

/** How all of a section is named among what is opened; no network can have such an id. */
export const allOf = (section: string): string => `all:${section}`

/**
 * The estate as marks and what joins them, in the order of the estate. Where it has many subnets,
 * each network is one mark that stands for its doors, translators and endpoints too, unless it is
 * named in `opened`; networks that are alike are one mark together, unless `alikeRef` of the first
 * is opened. So are many sites, parties or services, unless `allOf` them is opened.
 */
export function estateGraph(model: Model, opened: readonly string[] = []): EstateGraph {
  const folds = model.index.subnets.size > MOST_UNFOLDED
  const drawing = drawingOf(model, opened, folds)
  for (const draw of DRAWN) draw(drawing)
  const { nodes, edges } = drawing
  const there = new Set(nodes.map(({ ref }) => ref))
  return {
    nodes,
    edges: [...edges.values()].filter(({ from, to }) => there.has(from) && there.has(to)),
    folds,
  }
}

/** The internet, and sites, parties and services: many of a section are one mark together. */
function drawOutside({ model, mark, nodes, outside, isOpen, join }: Drawing): void {
  mark({ ref: 'internet', column: 'outside', kind: 'internet', about: 'the internet' })
  for (const [section, kind] of OUTSIDE) {
    const ids = [...model.index[section].keys()]
    const together = ids.length > MOST_OUTSIDE && !isOpen(allOf(section))
    if (together)
      nodes.push({
        ref: section,
        name: section,
        column: 'outside',
        kind: section,
        about: `${ids.length}`,
        up: true,
        subnets: null,
        stands: ids.map((id) => `${section}/${id}`),
      })
    for (const id of ids) {
      const ref = `${section}/${id}`
      const about = listed(model.estate[section].get(id)?.ranges)
      outside.set(ref, together ? section : mark({ ref, column: 'outside', kind, about }))
    }
    // Whoever is reached over the internet is a part of it.
    if (section === 'parties') for (const id of ids) join('internet', outside.get(`parties/${id}`)!)
  }
}

function drawGateways({ model, markAt, join, networkOf, outside, gateways }: Drawing): void {
  for (const gateway of present(model.gateways, model.index.gateways)) {
    const { ref, up } = gateway
    const network = networkOf(gateway.network)
    const at = markAt(network, { ref, up, ...drawnAs('gateway'), about: GATEWAYS[gateway.kind] })
    gateways.set(ref, at)
    if (gateway.kind === 'private') {
      const site = outside.get(`sites/${gateway.site}`)
      if (site !== undefined) join(site, at)
    } else join('internet', at)
    if (network && at === ref) join(at, network.ref)
  }
  for (const network of present(model.networks, model.index.networks))
    if (network.behaviour === 'default-open') join('internet', network.ref)
}

function drawNats({ model, markAt, join, networkOf, gateways }: Drawing): void {
  for (const nat of present(model.nats, model.index.nats)) {
    const { ref, up } = nat
    const network = networkOf(nat.network)
    const about = listed(nat.addresses.map(formatAddress))
    const at = markAt(network, { ref, up, ...drawnAs('nat'), about })
    if (!network || at !== ref) continue
    // By which door it goes out its routes say; on the map it stands between the doors of its
    // network and its subnets.
    for (const gateway of model.attached.gateways.get(network.index) ?? [])
      if (gateway.kind === 'internet') join(gateways.get(gateway.ref) ?? gateway.ref, at)
    join(at, network.ref)
  }
}

function drawFirewalls({ model, markAt, join, networkOf, alike }: Drawing): void {
  const walls = model.index.firewalls.size
  for (const { ref, up, interfaces, source, style, stateful } of present(
    model.firewalls,
    model.index.firewalls,
  )) {
    const sides = interfaces.map(
      (side) => model.subnets[model.interfaces[side.interface]!.subnet]?.network ?? -1,
    )
    const inline =
      source.style === 'inline' ? (model.index.networks.get(source.network ?? '') ?? -1) : -1
    const homes = [...new Set([...sides, inline])].flatMap((index) => networkOf(index) ?? [])
    const about = `${style}${stateful ? '' : ', no state'}`
    const home = homes.length === 1 ? homes[0] : undefined
    // A firewall in a network that is like no other is what the others are steered through.
    const isSeen = home !== undefined && walls <= MOST_WALLS && !alike.has(home.index)
    const at = markAt(isSeen ? undefined : home, { ref, up, ...drawnAs('inspect'), about })
    for (const one of homes) join(at, one.ref)
  }
}

function drawTransits({ model, mark, join, networkOf, gateways }: Drawing): void {
  for (const transit of present(model.transits, model.index.transits)) {
    const { ref, up, attachmentOf } = transit
    const about = `${attachmentOf.size} ${attachmentOf.size === 1 ? 'network' : 'networks'}`
    const at = mark({ ref, up, ...drawnAs('transit'), about })
    for (const index of attachmentOf.keys()) {
      const network = networkOf(index)
      if (network) join(at, network.ref)
    }
    for (const other of transit.towards.keys())
      if (transit.id < other) join(at, `transits/${other}`)
    const attachments = Object.values(transit.source.attachments ?? {}) as { gateway?: string }[]
    for (const { gateway } of attachments) {
      if (gateway !== undefined && model.index.gateways.has(gateway))
        join(gateways.get(`gateways/${gateway}`) ?? `gateways/${gateway}`, at)
    }
  }
}

function drawEndpoints({ model, markAt, join, networkOf, outside }: Drawing): void {
  for (const id of model.index.endpoints.keys()) {
    const endpoint = model.estate.endpoints.get(id)!
    const network = networkOf(model.index.networks.get(endpoint.network ?? '') ?? -1)
    const at = markAt(network, {
      ref: `endpoints/${id}`,
      ...drawnAs('endpoint'),
      about: `${endpoint.style}, ${endpoint.service}`,
      up: (endpoint.state ?? 'up') === 'up',
    })
    const service = outside.get(`services/${endpoint.service}`)
    if (service !== undefined) join(service, at)
    if (network) join(at, network.ref)
  }
}

function drawFrontends({ model, markAt, join, networkOf }: Drawing): void {
  for (const { ref, up, id, network: index, listeners } of present(
    model.frontends,
    model.index.frontends,
  )) {
    const network = networkOf(index)
    const about = `to ${new Set(listeners.flatMap(({ targets }) => targets)).size} hosts`
    const at = markAt(network, { ref, up, column: 'doors', kind: 'frontend', about })
    if ((model.estate.frontends.get(id)?.publicAddresses ?? []).length > 0) join('internet', at)
    if (network) join(at, network.ref)
  }
}

function drawPeerings({ model, join, networkOf }: Drawing): void {
  for (const peering of present(model.peerings, model.index.peerings)) {
    const [a, b] = [networkOf(peering.a.network), networkOf(peering.b.network)]
    if (a && b) join(a.ref, b.ref, peering.ref)
  }
}

/** Networks come last: a folded one stands for all that was drawn at it. */
function drawNetworks(drawing: Drawing): void {
  const { model, nodes, isFolded, foldedInto, alike } = drawing
  for (const network of present(model.networks, model.index.networks)) {
    const group = alike.get(network.index)
    if (group !== undefined) {
      if (group.members[0] === network.index) drawAlike(drawing, group)
      continue
    }
    const subnets = network.subnets
      .map((index) => model.subnets[index]!)
      .filter((subnet) => model.index.subnets.has(subnet.id))
    const folded = isFolded(network)
    nodes.push({
      ref: network.ref,
      name: network.id,
      column: 'networks',
      kind: 'network',
      about: folded
        ? `${subnets.length} ${subnets.length === 1 ? 'subnet' : 'subnets'}`
        : network.ranges.map(formatPrefix).join(', '),
      up: network.up,
      subnets: folded
        ? null
        : subnets.map(({ ref, zone, region, role }) => ({
            ref,
            zone: zone ?? region ?? 'all zones',
            role,
          })),
      stands: folded
        ? [...(foldedInto.get(network.ref) ?? []), ...subnets.map(({ ref }) => ref)]
        : [],
    })
  }
}

/** Networks that are alike: one mark that stands for all of them, and for what is in them. */
function drawAlike({ model, nodes, foldedInto }: Drawing, group: AlikeNetworks): void {
  const networks = group.members.map((number) => model.networks[number]!)
  const within = networks.flatMap(({ ref, subnets }) => [
    ref,
    ...subnets.flatMap((number) => {
      const { id, ref: subnet } = model.subnets[number]!
      return model.index.subnets.has(id) ? [subnet] : []
    }),
  ])
  nodes.push({
    ref: group.ref,
    ...alikeWords(model, group),
    column: 'networks',
    kind: 'networks',
    up: networks.every(({ up }) => up),
    subnets: null,
    stands: [...(foldedInto.get(group.ref) ?? []), ...within],
  })
}

const DRAWN: readonly ((drawing: Drawing) => void)[] = [
  drawOutside,
  drawGateways,
  drawNats,
  drawFirewalls,
  drawTransits,
  drawEndpoints,
  drawFrontends,
  drawPeerings,
  drawNetworks,
]

/** The column and the word of what a kind of next hop leads to. */
function drawnAs(kind: TargetKind): { readonly column: MapColumn; readonly kind: string } {
  const { drawn } = NEXT_HOPS[kind]
  if (drawn?.as !== 'mark') throw new Error(`the map draws no mark for ${kind}`)
  return { column: drawn.column, kind: drawn.word }
}

const OUTSIDE = [
  ['sites', 'site'],
  ['parties', 'party'],
  ['services', 'service'],
] as const
const GATEWAYS = {
  internet: 'both ways',
  'outbound-v6': 'IPv6, out only',
  private: 'private',
} as const

const present = <T>(all: readonly T[], index: ReadonlyMap<string, number>): T[] =>
  [...index.values()].map((at) => all[at]!)

const listed = (items: readonly string[] = []): string =>
  items.length > 1 ? `${items[0]} +${items.length - 1}` : (items[0] ?? '')

/**
 * Which mark stands for each object: itself, its network where that is folded, or the network its
 * subnet is in.
 */
export function marksOf(graph: EstateGraph): ReadonlyMap<string, string> {
  const out = new Map<string, string>()
  for (const { ref, subnets, stands } of graph.nodes) {
    out.set(ref, ref)
    for (const one of [...(subnets ?? []).map((subnet) => subnet.ref), ...stands]) out.set(one, ref)
  }
  for (const { from, by } of graph.edges) if (by !== null) out.set(by, from)
  return out
}
