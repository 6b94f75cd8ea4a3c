import { isAlias, isMap, isSeq, type Node, type Pair } from 'yaml'
import type { Section } from '../schema/document'
import { keyText } from './plain'
import { positionAt, type Position, type SourceDocument } from './syntax'

export type Path = readonly (string | number)[]

/** Where each object of an estate was written. */
export interface Origins {
  readonly entries: Map<Section, Map<string, Origin>>
  readonly start: Position
}

export interface Origin {
  readonly source: SourceDocument
  /** The key's node (or the list item), where the object begins. */
  readonly key: Node | null
  readonly value: Node | null
}

/** Which part of the place a path leads to is meant. */
export type Part = 'value' | 'key'

/** The position of a path inside an object; of the nearest part of it that is there, if it is not. */
export function locate(origins: Origins, section: Section, id: string, path: Path = [], part: Part = 'value'): Position {
  const origin = origins.entries.get(section)?.get(id)
  if (!origin) return origins.start
  let key = origin.key
  let value = origin.value
  for (const step of path) {
    const inside = resolve(value, origin.source)
    const next = isMap(inside)
      ? pairOf(inside.items as Pair<Node, Node>[], step)
      : isSeq(inside)
        ? { key: inside.items[Number(step)] as Node, value: inside.items[Number(step)] as Node }
        : undefined
    if (!next) {
      part = 'key'
      break
    }
    key = next.key
    value = next.value
  }
  const node = part === 'key' || path.length === 0 ? (key ?? value) : (value ?? key)
  return positionAt(origin.source, node?.range?.[0] ?? 0)
}

function resolve(node: Node | null, source: SourceDocument): Node | null {
  return isAlias(node) ? (node.resolve(source.document) ?? null) : node
}

function pairOf(items: readonly Pair<Node, Node>[], step: string | number): Pair<Node, Node> | undefined {
  return items.find((pair) => keyText(pair.key) === String(step))
}
