import type { Model, NetworkModel } from '../model/model'
import { alikeNetworks, type AlikeNetworks } from './alike'
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
  /** The networks that one mark stands for, by their numbers. */
  readonly alike: ReadonlyMap<number, AlikeNetworks>
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

const nameOf = (ref: string): string => ref.slice(ref.indexOf('/') + 1)

/** An empty map of a model. */
export function drawingOf(model: Model, opened: readonly string[], folds: boolean): Drawing {
  const open = new Set(opened)
  const nodes: MapNode[] = []
  const edges = new Map<string, MapEdge>()
  const foldedInto = new Map<string, string[]>()
  const isFolded = (network: NetworkModel | undefined): boolean =>
    folds && network !== undefined && !open.has(network.id)
  const isOpen = (what: string): boolean => open.has(what)
  const alike = folds ? alikeNetworks(model, isOpen) : new Map<number, AlikeNetworks>()
  const standsIn = new Map<string, string>()
  for (const [number, { ref }] of alike) standsIn.set(model.networks[number]!.ref, ref)
  const mark: Drawing['mark'] = ({ up = true, ...one }) => {
    nodes.push({ ...one, name: nameOf(one.ref), up, subnets: null, stands: [] })
    return one.ref
  }
  const fold = (into: string, ref: string): void => {
    const known = foldedInto.get(into)
    if (known) known.push(ref)
    else foldedInto.set(into, [ref])
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
    isOpen,
    alike,
    networkOf: (index) => {
      const network = model.networks[index]
      return network && model.index.networks.has(network.id) ? network : undefined
    },
    markAt: (network, one) => {
      if (!isFolded(network)) return mark(one)
      const into = standsIn.get(network!.ref) ?? network!.ref
      fold(into, one.ref)
      return into
    },
    join: (a, b, by = null) => {
      const [from, to] = [standsIn.get(a) ?? a, standsIn.get(b) ?? b]
      if (from === to) return by === null ? undefined : fold(from, by)
      // Where a mark stands for several, so does what joins it.
      const isOne = from === a && to === b
      if (by !== null && !isOne) fold(from === a ? to : from, by)
      edges.set(`${from} ${to} ${isOne ? by : null}`, { from, to, by: isOne ? by : null })
    },
  }
}
