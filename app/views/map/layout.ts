import { MAP_COLUMNS, type EstateGraph, type MapEdge, type MapNode } from '@salt-trail/core'
import type { ElkExtendedEdge, ElkNode } from 'elkjs/lib/elk-api'

export interface Point {
  readonly x: number
  readonly y: number
}
export interface Box extends Point {
  readonly width: number
  readonly height: number
}
/** A subnet inside its network's mark. */
export interface Chip extends Box {
  readonly ref: string
  readonly name: string
  readonly role: string | null
}
export interface Zone extends Point {
  readonly name: string
}
export interface PlacedNode extends Box {
  readonly node: MapNode
  readonly chips: readonly Chip[]
  readonly zones: readonly Zone[]
}
export interface PlacedEdge {
  readonly edge: MapEdge
  readonly points: readonly Point[]
}
export interface PlacedMap {
  readonly width: number
  readonly height: number
  readonly nodes: readonly PlacedNode[]
  readonly edges: readonly PlacedEdge[]
}

export const nameOf = (ref: string): string => ref.slice(ref.indexOf('/') + 1)

const MARK = { width: 172, height: 38 }
const NETWORK_HEAD = 26
const ZONE_HEAD = 21
/** A subnet's mark, and the room between such marks, in which lines can lie. */
export const CHIP = { height: 20, gap: 6, pad: 10 }
/**
 * A zone's subnets stand in two columns from so many on, so that the whole is wider than high, as
 * screens are.
 */
const ONE_COLUMN = 2
/** About how wide a letter of the names is. */
const LETTER = 6.6

interface Inside extends Pick<Box, 'width' | 'height'> {
  readonly chips: readonly Chip[]
  readonly zones: readonly Zone[]
}

/** A network's subnets in columns by zone, as they lie in its mark. */
export function insideOf(node: MapNode): Inside {
  if (node.subnets === null || node.subnets.length === 0)
    return { ...MARK, height: IS_NETWORK.test(node.ref) ? 44 : MARK.height, chips: [], zones: [] }
  const network = nameOf(node.ref)
  const named = node.subnets.map((subnet) => {
    const id = nameOf(subnet.ref)
    return { ...subnet, name: id.startsWith(`${network}-`) ? id.slice(network.length + 1) : id }
  })
  const zones = [...new Set(named.map(({ zone }) => zone))].sort()
  const chipWidth = Math.min(
    190,
    Math.max(96, ...named.map(({ name }) => name.length * LETTER + 22)),
  )
  const chips: Chip[] = []
  const heads: Zone[] = []
  let column = 0
  const xOf = (at: number): number => CHIP.pad + at * (chipWidth + CHIP.pad)
  for (const zone of zones) {
    const own = named.filter((one) => one.zone === zone)
    const rows = own.length > ONE_COLUMN ? Math.ceil(own.length / 2) : own.length
    heads.push({ name: zone, x: xOf(column), y: NETWORK_HEAD + 10 })
    for (const [index, { ref, name, role }] of own.entries()) {
      const y = NETWORK_HEAD + ZONE_HEAD + (index % rows) * (CHIP.height + CHIP.gap)
      chips.push({
        ref,
        name,
        role,
        x: xOf(column + Math.floor(index / rows)),
        y,
        width: chipWidth,
        height: CHIP.height,
      })
    }
    column += Math.ceil(own.length / rows)
  }
  const bottom = Math.max(...chips.map(({ y, height }) => y + height))
  return {
    width: Math.max(236, xOf(column)),
    height: bottom + CHIP.pad,
    chips,
    zones: heads,
  }
}

/** Between marks that stand one under the other, and between columns. */
const GAP = 10
const BETWEEN_COLUMNS = 44
const OPTIONS = {
  'elk.algorithm': 'layered',
  'elk.direction': 'RIGHT',
  'elk.partitioning.activate': 'true',
  'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES',
  'elk.layered.spacing.nodeNodeBetweenLayers': `${BETWEEN_COLUMNS}`,
  'elk.layered.spacing.edgeNodeBetweenLayers': '14',
  'elk.layered.spacing.edgeEdgeBetweenLayers': '7',
  'elk.spacing.nodeNode': `${GAP}`,
  'elk.spacing.edgeNode': '12',
  'elk.edgeRouting': 'ORTHOGONAL',
  'elk.layered.nodePlacement.strategy': 'NETWORK_SIMPLEX',
  'elk.separateConnectedComponents': 'false',
  'elk.randomSeed': '1',
}

/** More joins than these are not routed, only drawn straight where they are asked for. */
const MOST_ROUTED = 160
/**
 * Networks that stand above each other; more of them stand in several columns, about as wide as
 * high.
 */
const MOST_IN_A_COLUMN = 12

/**
 * Joins from column to column are routed by the layout; those between networks, such as peerings,
 * lie beside the networks.
 */
const isRouted = (graph: EstateGraph, { from, to }: MapEdge): boolean =>
  graph.edges.length <= MOST_ROUTED &&
  !(IS_NETWORK.test(from) && IS_NETWORK.test(to)) &&
  !isOutside({ from, to })
/** Joins of what is on the internet with it; they lie beside the marks, at the outer side. */
const isOutside = ({ from, to }: Pick<MapEdge, 'from' | 'to'>): boolean =>
  from === 'internet' && /^parties(\/|$)/.test(to)
const IS_NETWORK = /^(networks|alike)\//

/** In which column of the drawing each mark stands: many networks take several. */
function columnOfEach(graph: EstateGraph): (node: MapNode) => number {
  const networks = graph.nodes.filter(({ column }) => column === 'networks').length
  const columns =
    networks <= MOST_IN_A_COLUMN ? 1 : Math.max(2, Math.round(Math.sqrt(networks * 0.4)))
  let network = 0
  return (node) => {
    const column = MAP_COLUMNS.indexOf(node.column)
    return node.column === 'networks'
      ? column + Math.floor((network++ * columns) / networks)
      : column
  }
}

/**
 * Where marks stand whose joins are not routed: in their columns, one under the other. That needs
 * no layout package, which would take seconds for it.
 */
export function inColumns(graph: EstateGraph): ElkNode | null {
  if (graph.edges.length <= MOST_ROUTED) return null
  const columnOf = columnOfEach(graph)
  const bottoms: number[] = []
  const widths: number[] = []
  const stacked = graph.nodes.map((node) => {
    const { width, height } = insideOf(node)
    const column = columnOf(node)
    const y = bottoms[column] ?? 0
    bottoms[column] = y + height + GAP
    widths[column] = Math.max(widths[column] ?? 0, width)
    return { id: node.ref, column, y, width, height }
  })
  const lefts: number[] = []
  let left = 0
  for (let column = 0; column < widths.length; column++) {
    lefts[column] = left
    if (widths[column] !== undefined) left += widths[column]! + BETWEEN_COLUMNS
  }
  const children = stacked.map(({ column, ...one }) => ({ ...one, x: lefts[column]! }))
  return {
    id: 'map',
    width: left - BETWEEN_COLUMNS,
    height: Math.max(0, ...bottoms.filter((one) => one !== undefined)) - GAP,
    children,
    edges: [],
  }
}

/**
 * The drawing as the layout package is asked for it: each column of the map a partition of its own.
 */
export function layoutRequest(graph: EstateGraph): ElkNode {
  const partition = columnOfEach(graph)
  return {
    id: 'map',
    layoutOptions: OPTIONS,
    children: graph.nodes.map((node) => {
      const { width, height } = insideOf(node)
      return {
        id: node.ref,
        width,
        height,
        layoutOptions: { 'elk.partitioning.partition': String(partition(node)) },
      }
    }),
    edges: graph.edges.flatMap((edge, index) =>
      isRouted(graph, edge)
        ? [{ id: `edge ${index}`, sources: [edge.from], targets: [edge.to] }]
        : [],
    ),
  }
}

/** The distance of edges between networks from the networks, and from each other. */
const BESIDE = { first: 22, step: 12 }
/** The distance of the line that joins what is on the internet with it. */
const OUTER = 9

/** What the layout package answered, as places of the map. */
export function placed(graph: EstateGraph, answer: ElkNode): PlacedMap {
  const boxes = new Map((answer.children ?? []).map((child) => [child.id, child]))
  const nodes = graph.nodes.map((node): PlacedNode => {
    const box = boxes.get(node.ref)!
    const { chips, zones } = insideOf(node)
    const [x, y] = [box.x ?? 0, box.y ?? 0]
    const move = <T extends Point>(one: T): T => ({ ...one, x: one.x + x, y: one.y + y })
    return {
      node,
      x,
      y,
      width: box.width ?? 0,
      height: box.height ?? 0,
      chips: chips.map(move),
      zones: zones.map(move),
    }
  })
  const at = new Map(nodes.map((one) => [one.node.ref, one]))
  const lines = new Map((answer.edges ?? []).map((edge) => [edge.id, edge]))
  const right = Math.max(0, ...nodes.map(({ x, width }) => x + width))
  const ends = new Map<string, number>()
  let beside = 0
  const edges = graph.edges.map((edge, index): PlacedEdge => {
    const routed = lines.get(`edge ${index}`)
    if (routed) return { edge, points: pointsOf(routed) }
    const [a, b] = [at.get(edge.from)!, at.get(edge.to)!]
    if (graph.edges.length > MOST_ROUTED) return { edge, points: [middle(a), middle(b)] }
    if (isOutside(edge)) {
      const [internet, party] = [a, b].map((one) => ({ x: one.x, y: middle(one).y }))
      const left = Math.min(a.x, b.x) - OUTER
      return {
        edge,
        points: [internet!, { x: left, y: internet!.y }, { x: left, y: party!.y }, party!],
      }
    }
    const out = right + BESIDE.first + BESIDE.step * beside++
    const [from, to] = [a, b].map((one) => {
      const used = ends.get(one.node.ref) ?? 0
      ends.set(one.node.ref, used + 1)
      return { x: one.x + one.width, y: one.y + Math.min(14 + used * 10, one.height - 6) }
    }) as [Point, Point]
    return { edge, points: [from, { x: out, y: from.y }, { x: out, y: to.y }, to] }
  })
  const width = Math.max(right, ...edges.flatMap(({ points }) => points.map(({ x }) => x)))
  return { width, height: answer.height ?? 0, nodes, edges }
}

export const middle = ({ x, y, width, height }: Box): Point => ({
  x: x + width / 2,
  y: y + height / 2,
})

const pointsOf = (edge: ElkExtendedEdge): Point[] =>
  (edge.sections ?? []).flatMap(({ startPoint, bendPoints = [], endPoint }) => [
    startPoint,
    ...bendPoints,
    endPoint,
  ])
