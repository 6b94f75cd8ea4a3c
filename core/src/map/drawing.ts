import type { Model, NetworkModel } from '../model/model'
import type { MapColumn, MapEdge, MapNode } from './node'

/** A mark to draw. */
interface Mark {
  readonly ref: string
  readonly column: MapColumn
  readonly kind: string
  readonly about: string
  readonly up?: boolean
}

/** The map being drawn: marks and edges so far, and what decides where the next one goes. */
export interface Drawing {
  readonly model: Model
  readonly folds: boolean
  readonly nodes: MapNode[]
  readonly edges: Map<string, MapEdge>
  readonly isOpen: (what: string) => boolean
  readonly isFolded: (network: NetworkModel | undefined) => boolean
  /** A network by its number, if it is there. */
  readonly networkOf: (index: number) => NetworkModel | undefined
  readonly mark: (one: Mark) => string
  /** A mark of its own, or part of the folded network it stands at: the reference of either. */
  readonly markAt: (network: NetworkModel | undefined, one: Mark) => string
  readonly join: (from: string, to: string, by?: string | null) => void
  /** What is part of each folded network, by the network's reference. */
  readonly foldedInto: ReadonlyMap<string, readonly string[]>
  /** The mark of something outside: its own, or that of all its section. */
  readonly outside: Map<string, string>
  /** The marks of gateways. */
  readonly gateways: Map<string, string>
}

/** An empty map of a model. */
export function drawingOf(model: Model, opened: readonly string[], folds: boolean): Drawing {
  const open = new Set(opened)
  const nodes: MapNode[] = []
  const edges = new Map<string, MapEdge>()
  const foldedInto = new Map<string, string[]>()
  const isFolded = (network: NetworkModel | undefined): boolean =>
    folds && network !== undefined && !open.has(network.id)
  const mark: Drawing['mark'] = ({ up = true, ...one }) => {
    nodes.push({ ...one, up, subnets: null, stands: [] })
    return one.ref
  }
  return {
    model,
    folds,
    nodes,
    edges,
    foldedInto,
    isFolded,
    mark,
    outside: new Map(),
    gateways: new Map(),
    isOpen: (what) => open.has(what),
    networkOf: (index) => {
      const network = model.networks[index]
      return network && model.index.networks.has(network.id) ? network : undefined
    },
    markAt: (network, one) => {
      if (!isFolded(network)) return mark(one)
      foldedInto.set(network!.ref, [...(foldedInto.get(network!.ref) ?? []), one.ref])
      return network!.ref
    },
    join: (from, to, by = null) => {
      if (from !== to) edges.set(`${from} ${to} ${by}`, { from, to, by })
    },
  }
}
