import { formatAddress } from '../address/address'
import { formatPrefix } from '../address/prefix'
import type { Model, NetworkModel } from '../model/model'
import type { TargetKind } from '../model/targets'
import { NEXT_HOPS } from '../walk/next-hops/registry'

/** What stands on the map, from the outside to the networks: a column of the drawing each. */
export const MAP_COLUMNS = ['outside', 'doors', 'between', 'networks'] as const
export type MapColumn = (typeof MAP_COLUMNS)[number]

export interface MapSubnet {
  readonly ref: string
  readonly zone: string
  readonly role: string | null
}

export interface MapNode {
  /** `section/id`, or `internet`. */
  readonly ref: string
  readonly column: MapColumn
  /** What it is, such as `gateway` or `network`. */
  readonly kind: string
  readonly about: string
  readonly up: boolean
  /** A network's subnets, where it is unfolded; null where it is one mark, or no network. */
  readonly subnets: readonly MapSubnet[] | null
  /**
   * Everything this mark stands for beside itself: a folded network's subnets and what stands at
   * it.
   */
  readonly stands: readonly string[]
}

export interface MapEdge {
  readonly from: string
  readonly to: string
  /** What joins them, as `section/id`, where that is no mark of its own, such as a peering. */
  readonly by: string | null
}

export interface EstateGraph {
  readonly nodes: readonly MapNode[]
  readonly edges: readonly MapEdge[]
  /** Whether networks are folded unless they are opened. */
  readonly folds: boolean
}

/** Above so many subnets networks are one mark each. */
export const MOST_UNFOLDED = 60
/** Above so many sites, parties or services they are one mark together. */
export const MOST_OUTSIDE = 6

/** How all of a section is named among what is opened; no network can have such an id. */
export const allOf = (section: string): string => `all:${section}`

/**
 * The estate as marks and what joins them, in the order of the estate. Where it has many subnets,
 * each network is one mark that stands for its doors, translators and endpoints too, unless it is
 * named in `opened`. So are many sites, parties or services, unless `allOf` them is opened.
 */
export function estateGraph(model: Model, opened: readonly string[] = []): EstateGraph {
  const folds = model.index.subnets.size > MOST_UNFOLDED
  const open = new Set(opened)
  const isFolded = (network: NetworkModel | undefined): boolean =>
    folds && network !== undefined && !open.has(network.id)
  const nodes: MapNode[] = []
  const edges = new Map<string, MapEdge>()
  const foldedInto = new Map<string, string[]>()
  const networkOf = (index: number): NetworkModel | undefined => {
    const network = model.networks[index]
    return network && model.index.networks.has(network.id) ? network : undefined
  }
  const join = (from: string, to: string, by: string | null = null): void => {
    if (from !== to) edges.set(`${from} ${to} ${by}`, { from, to, by })
  }
  const mark = (ref: string, column: MapColumn, kind: string, about: string, up = true): string => {
    nodes.push({ ref, column, kind, about, up, subnets: null, stands: [] })
    return ref
  }
  /** A mark of its own, or part of the folded network it stands at. */
  const markAt = (
    network: NetworkModel | undefined,
    ref: string,
    column: MapColumn,
    kind: string,
    about: string,
    up: boolean,
  ): string => {
    if (!isFolded(network)) return mark(ref, column, kind, about, up)
    foldedInto.set(network!.ref, [...(foldedInto.get(network!.ref) ?? []), ref])
    return network!.ref
  }

  mark('internet', 'outside', 'internet', 'the internet')
  /** The mark of something outside: its own, or that of all its section. */
  const outside = new Map<string, string>()
  for (const [section, kind] of OUTSIDE) {
    const ids = [...model.index[section].keys()]
    const together = ids.length > MOST_OUTSIDE && !open.has(allOf(section))
    if (together)
      nodes.push({
        ref: section,
        column: 'outside',
        kind: section,
        about: `${ids.length}`,
        up: true,
        subnets: null,
        stands: ids.map((id) => `${section}/${id}`),
      })
    for (const id of ids) {
      const ref = `${section}/${id}`
      outside.set(
        ref,
        together
          ? section
          : mark(ref, 'outside', kind, listed(model.estate[section].get(id)?.ranges)),
      )
    }
  }

  const placed = new Map<string, string>()
  for (const gateway of present(model.gateways, model.index.gateways)) {
    const network = networkOf(gateway.network)
    const at = markAt(
      network,
      gateway.ref,
      ...drawnAs('gateway'),
      GATEWAYS[gateway.kind],
      gateway.up,
    )
    placed.set(gateway.ref, at)
    if (gateway.kind === 'private') {
      const site = outside.get(`sites/${gateway.site}`)
      if (site !== undefined) join(site, at)
    } else join('internet', at)
    if (network && at === gateway.ref) join(at, network.ref)
  }
  for (const network of present(model.networks, model.index.networks))
    if (network.behaviour === 'default-open') join('internet', network.ref)
  for (const nat of present(model.nats, model.index.nats)) {
    const network = networkOf(nat.network)
    const at = markAt(
      network,
      nat.ref,
      ...drawnAs('nat'),
      listed(nat.addresses.map(formatAddress)),
      nat.up,
    )
    if (network && at === nat.ref) {
      // By which door it goes out its routes say; on the map it stands between the doors of its
      // network and its subnets.
      for (const gateway of model.attached.gateways.get(network.index) ?? [])
        if (gateway.kind === 'internet') join(placed.get(gateway.ref) ?? gateway.ref, at)
      join(at, network.ref)
    }
  }
  for (const firewall of present(model.firewalls, model.index.firewalls)) {
    const sides = firewall.interfaces.map(
      (side) => model.subnets[model.interfaces[side.interface]!.subnet]?.network ?? -1,
    )
    const inline =
      firewall.source.style === 'inline'
        ? (model.index.networks.get(firewall.source.network ?? '') ?? -1)
        : -1
    const homes = [...new Set([...sides, inline])].flatMap((index) => networkOf(index) ?? [])
    const at = markAt(
      homes.length === 1 ? homes[0] : undefined,
      firewall.ref,
      ...drawnAs('inspect'),
      `${firewall.style}${firewall.stateful ? '' : ', no state'}`,
      firewall.up,
    )
    for (const home of homes) join(at, home.ref)
  }
  for (const transit of present(model.transits, model.index.transits)) {
    const at = mark(
      transit.ref,
      ...drawnAs('transit'),
      `${transit.attachmentOf.size} ${transit.attachmentOf.size === 1 ? 'network' : 'networks'}`,
      transit.up,
    )
    for (const network of transit.attachmentOf.keys())
      if (networkOf(network)) join(at, networkOf(network)!.ref)
    for (const other of transit.towards.keys())
      if (transit.id < other) join(at, `transits/${other}`)
    for (const { gateway } of Object.values(transit.source.attachments ?? {}) as {
      gateway?: string
    }[]) {
      if (gateway !== undefined && model.index.gateways.has(gateway))
        join(placed.get(`gateways/${gateway}`) ?? `gateways/${gateway}`, at)
    }
  }
  for (const id of model.index.endpoints.keys()) {
    const endpoint = model.estate.endpoints.get(id)!
    const network = networkOf(model.index.networks.get(endpoint.network ?? '') ?? -1)
    const at = markAt(
      network,
      `endpoints/${id}`,
      ...drawnAs('endpoint'),
      `${endpoint.style}, ${endpoint.service}`,
      (endpoint.state ?? 'up') === 'up',
    )
    const service = outside.get(`services/${endpoint.service}`)
    if (service !== undefined) join(service, at)
    if (network) join(at, network.ref)
  }
  for (const frontend of present(model.frontends, model.index.frontends)) {
    const network = networkOf(frontend.network)
    const at = markAt(
      network,
      frontend.ref,
      'doors',
      'frontend',
      `to ${new Set(frontend.listeners.flatMap(({ targets }) => targets)).size} hosts`,
      frontend.up,
    )
    if ((model.estate.frontends.get(frontend.id)?.publicAddresses ?? []).length > 0)
      join('internet', at)
    if (network) join(at, network.ref)
  }
  for (const peering of present(model.peerings, model.index.peerings)) {
    const [a, b] = [networkOf(peering.a.network), networkOf(peering.b.network)]
    if (a && b && model.index.networks.has(a.id) && model.index.networks.has(b.id))
      join(a.ref, b.ref, peering.ref)
  }
  for (const network of present(model.networks, model.index.networks)) {
    const subnets = network.subnets
      .map((index) => model.subnets[index]!)
      .filter((subnet) => model.index.subnets.has(subnet.id))
    const folded = isFolded(network)
    nodes.push({
      ref: network.ref,
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
  const there = new Set(nodes.map(({ ref }) => ref))
  return {
    nodes,
    edges: [...edges.values()].filter(({ from, to }) => there.has(from) && there.has(to)),
    folds,
  }
}

/** The column and the word of what a kind of next hop leads to. */
function drawnAs(kind: TargetKind): readonly [column: MapColumn, word: string] {
  const { drawn } = NEXT_HOPS[kind]
  if (drawn?.as !== 'mark') throw new Error(`the map draws no mark for ${kind}`)
  return [drawn.column, drawn.word]
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
