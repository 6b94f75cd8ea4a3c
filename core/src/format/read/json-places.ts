import { parseTree, type Node } from 'jsonc-parser'
import { cached } from '../../incremental/cells'
import type { Part, Path } from './source'

/**
 * Where a member of an object or a list stands: its key, which in a list is its value, and its
 * value.
 */
export interface Place {
  readonly keyOffset: number
  readonly start: number
  readonly end: number
}

const QUOTE = 0x22
const BACKSLASH = 0x5c
const COLON = 0x3a
const COMMA = 0x2c
const [OPEN_LIST, CLOSE_LIST, OPEN_MAP, CLOSE_MAP] = [0x5b, 0x5d, 0x7b, 0x7d]

const isSpace = (code: number): boolean =>
  code === 0x20 || code === 0x0a || code === 0x0d || code === 0x09

function afterSpace(text: string, from: number): number {
  let at = from
  while (isSpace(text.charCodeAt(at))) at++
  return at
}

/** Behind a text in quotes that begins at an offset. */
function afterQuoted(text: string, from: number): number {
  let at = from + 1
  for (let code = text.charCodeAt(at); code !== QUOTE; code = text.charCodeAt(at))
    at += code === BACKSLASH ? 2 : 1
  return at + 1
}

/** Behind a value that begins at an offset. */
function afterValue(text: string, from: number): number {
  const first = text.charCodeAt(from)
  if (first === QUOTE) return afterQuoted(text, from)
  let at = from
  if (first !== OPEN_MAP && first !== OPEN_LIST) {
    for (
      let code = first;
      code !== COMMA &&
      code !== CLOSE_MAP &&
      code !== CLOSE_LIST &&
      !isSpace(code) &&
      at < text.length;
    )
      code = text.charCodeAt(++at)
    return at
  }
  let depth = 0
  do {
    const code = text.charCodeAt(at)
    if (code === QUOTE) {
      at = afterQuoted(text, at)
      continue
    }
    if (code === OPEN_MAP || code === OPEN_LIST) depth++
    else if (code === CLOSE_MAP || code === CLOSE_LIST) depth--
    at++
  } while (depth > 0)
  return at
}

/**
 * Where the members of an object or a list stand that begins at an offset; those of a list are
 * named by their numbers. The text is known to be JSON (RFC 8259): nothing is checked. Reading the
 * text with a parser that tells all offsets takes many times as long, and few are ever asked for.
 */
export function placesIn(text: string, start: number): Map<string, Place> {
  const places = new Map<string, Place>()
  const isList = text.charCodeAt(start) === OPEN_LIST
  for (
    let at = afterSpace(text, start + 1);
    text.charCodeAt(at) !== CLOSE_MAP && text.charCodeAt(at) !== CLOSE_LIST;
  ) {
    const keyOffset = at
    let key = String(places.size)
    if (!isList) {
      const end = afterQuoted(text, at)
      key = JSON.parse(text.slice(at, end)) as string
      at = afterSpace(text, afterSpace(text, end) + 1)
    }
    const end = afterValue(text, at)
    places.set(key, { keyOffset, start: at, end })
    at = afterSpace(text, end)
    if (text.charCodeAt(at) === COMMA) at = afterSpace(text, at + 1)
  }
  return places
}

/** Where a text of JSON begins with its value. */
export const startOf = (text: string): number => afterSpace(text, 0)

/** How many names of keys stand in a text of JSON: texts in quotes with a colon behind them. */
export function countNamesIn(text: string): number {
  let count = 0
  for (let at = text.indexOf('"'); at >= 0; at = text.indexOf('"', at)) {
    at = afterQuoted(text, at)
    if (text.charCodeAt(afterSpace(text, at)) === COLON) count++
  }
  return count
}

/** Objects in which something was looked for: one may hold thousands of what is wrong. */
const trees = new WeakMap<Place, Node | undefined>()

function treeOf(text: string, place: Place): Node | undefined {
  if (!trees.has(place)) trees.set(place, parseTree(text.slice(place.start, place.end)))
  return trees.get(place)
}

/**
 * The offset of a path in an object, found by reading the object's text once more; of the nearest
 * part that is there. The first question about an object costs its length.
 */
export function offsetIn(text: string, place: Place, path: Path, part: Part): number {
  let node = treeOf(text, place)
  let found = 0
  for (const step of node ? path : []) {
    const next = childAt(node!, step)
    if (!next) break
    node = next
    found++
  }
  if (!node || found === 0) return place.keyOffset
  const wantsKey = part === 'key' || found < path.length
  const key = wantsKey && node.parent?.type === 'property' ? node.parent.children?.[0] : undefined
  return place.start + (key ?? node).offset
}

const members = new WeakMap<Node, ReadonlyMap<string, Node>>()

/** The value at a key of an object or a place of a list. */
function childAt(node: Node, step: string | number): Node | undefined {
  if (node.type === 'array') return node.children?.[Number(step)]
  if (node.type !== 'object') return undefined
  const known = cached(members, node, () => {
    const pairs = (node.children ?? []).flatMap(({ children = [] }): [string, Node][] =>
      children[0] && children[1] ? [[children[0].value as string, children[1]]] : [],
    )
    // Of a key that is given twice the first counts.
    return new Map(pairs.reverse())
  })
  return known.get(String(step))
}
