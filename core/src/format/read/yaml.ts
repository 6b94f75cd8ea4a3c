import {
  isAlias,
  isMap,
  isScalar,
  isSeq,
  parseAllDocuments,
  visit,
  type Alias,
  type Document,
  type Node,
  type Pair,
  type ParsedNode,
  type YAMLMap,
} from 'yaml'
import { cached } from '../../incremental/cells'
import type { Problem } from '../problem'
import {
  locator,
  setKey,
  type Conversion,
  type Locator,
  type Part,
  type Path,
  type Plain,
  type SourceDocument,
  type SourceEntry,
  type SourceFile,
  type SourceSection,
} from './source'

type Parsed = Document.Parsed<ParsedNode>

/**
 * What is known while a text is read: the document for aliases, where offsets are, where to report.
 */
interface Reading {
  readonly document: Parsed
  readonly position: Locator
  readonly conversion: Conversion
  /** The section a piece is from; null for a whole document. */
  readonly within: string | null
  /** Whether what is read stands for an alias. */
  readonly expands?: boolean
}

/** All aliases together stand for so many values at most. */
const MOST_EXPANDED = 1_000_000

const OPTIONS = {
  uniqueKeys: false,
  prettyErrors: false,
  version: '1.2',
  keepSourceTokens: false,
} as const

/** Reads YAML 1.2 (JSON among it), every document of a file, and reports every syntax error. */
export function readYaml(file: SourceFile, conversion: Conversion): SourceDocument[] {
  const position = locator(file)
  let documents: Parsed[]
  try {
    documents = parse(file.text)
  } catch (error) {
    if (!(error instanceof RangeError)) throw error
    conversion.problems.push(tooDeep(position(0)))
    return []
  }
  return documents.flatMap((document) => {
    reportSyntax(document, position, 0, conversion.problems)
    return document.contents === null
      ? []
      : [sourceOf({ document, position, conversion, within: null })]
  })
}

// Duplicate keys are found in the conversion: the package compares each key with each other one.
function parse(text: string): Parsed[] {
  const parsed = parseAllDocuments<ParsedNode>(text, OPTIONS)
  return Array.isArray(parsed) ? (parsed as Parsed[]) : []
}

/**
 * Reads a piece of a larger text that holds one map: `start` is where it stands, `within` the
 * section it is from.
 */
export function readPiece(
  text: string,
  start: number,
  within: string | null,
  position: Locator,
  conversion: Conversion,
): SourceSection[] {
  const [document] = parse(text)
  if (!document) return []
  reportSyntax(document, position, start, conversion.problems)
  const reading = {
    document,
    position: (offset: number) => position(start + offset),
    conversion,
    within,
  }
  return [...(sourceOf(reading).sections ?? [])]
}

function reportSyntax(
  document: Parsed,
  position: Locator,
  start: number,
  problems: Problem[],
): void {
  for (const error of document.errors) {
    if (error.message.includes('call stack')) {
      problems.push(tooDeep(position(start + error.pos[0])))
      continue
    }
    const sentence = error.message.replace(/\s+/g, ' ').trim()
    problems.push({
      severity: 'error',
      code: 'syntax',
      message: `${sentence}; the text is neither YAML nor JSON from here on`,
      ...position(start + error.pos[0]),
      object: null,
    })
  }
}

const tooDeep = (at: ReturnType<Locator>): Problem => ({
  severity: 'error',
  code: 'limit-depth',
  message: 'the text is nested too deeply to be an estate (limit: depth)',
  ...at,
  object: null,
})

const offsetOf = (node: Node | null | undefined): number => node?.range?.[0] ?? 0

function sourceOf(reading: Reading): SourceDocument {
  const root = reading.document.contents
  const at = reading.position(offsetOf(root))
  if (!isMap(root)) return { sections: null, at }
  return {
    sections: (root.items as Pair<Node, Node | null>[]).map((pair) => sectionOf(reading, pair)),
    at,
  }
}

function sectionOf(reading: Reading, pair: Pair<Node, Node | null>): SourceSection {
  const name = keyText(pair.key)
  const value = resolve(pair.value, reading)
  const shape = isMap(value)
    ? 'map'
    : isSeq(value)
      ? 'list'
      : value === null || (isScalar(value) && value.value === null)
        ? 'empty'
        : 'scalar'
  return {
    name,
    at: reading.position(offsetOf(pair.key)),
    valueAt: reading.position(offsetOf(pair.value ?? pair.key)),
    shape,
    entries: () => {
      if (isMap(value))
        return (value.items as Pair<Node, Node | null>[]).map((entry) =>
          entryOf(
            reading,
            entry.key,
            entry.value,
            keyText(entry.key),
            `${name}/${keyText(entry.key)}`,
          ),
        )
      if (isSeq(value))
        return (value.items as Node[]).map((item, index) =>
          entryOf(reading, item, item, String(index), `${name}/${index}`),
        )
      return []
    },
    whole: () =>
      entryOf(
        reading,
        pair.key,
        pair.value,
        name,
        reading.within === null ? name : `${reading.within}/${name}`,
      ),
  }
}

function entryOf(
  reading: Reading,
  key: Node,
  value: Node | null,
  text: string | null,
  object: string | null,
): SourceEntry {
  const at = reading.position(offsetOf(key))
  return {
    key: text,
    value: toPlain(value, reading, object, 0),
    at: () => at,
    find: (path, part) => reading.position(findOffset(reading, key, value, path, part)),
  }
}

function findOffset(
  reading: Reading,
  key: Node,
  value: Node | null,
  path: Path,
  part: Part,
): number {
  let place: { key: Node; value: Node | null } = { key, value }
  let wanted = part
  for (const step of path) {
    const inside = resolve(place.value, reading)
    const item = isSeq(inside) ? (inside.items[Number(step)] as Node | undefined) : undefined
    const next = item
      ? { key: item, value: item }
      : isMap(inside)
        ? pairsOf(inside).get(String(step))
        : undefined
    if (!next) {
      wanted = 'key'
      break
    }
    place = next
  }
  return offsetOf(wanted === 'key' || path.length === 0 ? place.key : (place.value ?? place.key))
}

/** The pairs of a map by their keys, the first of each. */
const pairsOf = (map: YAMLMap): ReadonlyMap<string | null, Pair<Node, Node | null>> =>
  cached(knownPairs, map, () => {
    const pairs = new Map<string | null, Pair<Node, Node | null>>()
    for (const pair of map.items as Pair<Node, Node | null>[]) {
      const key = keyText(pair.key)
      if (!pairs.has(key)) pairs.set(key, pair)
    }
    return pairs
  })
const knownPairs = new WeakMap<YAMLMap, ReadonlyMap<string | null, Pair<Node, Node | null>>>()

function resolve(node: Node | null | undefined, { document }: Reading): Node | null {
  return isAlias(node) ? (anchored(document, node) ?? null) : (node ?? null)
}

const knownAnchors = new WeakMap<Parsed, ReadonlyMap<string, readonly Node[]>>()

/**
 * The node that an alias names: the last with its anchor before it. The anchors of a document are
 * listed once, since the package looks through the whole document for each alias.
 */
function anchored(document: Parsed, alias: Alias): Node | undefined {
  const anchors = cached(knownAnchors, document, () => {
    const found = new Map<string, Node[]>()
    visit(document, {
      Node: (_key, node) => {
        const name = isAlias(node) ? undefined : (node as { anchor?: string }).anchor
        if (name === undefined) return
        const known = found.get(name)
        if (known) known.push(node as Node)
        else found.set(name, [node as Node])
      },
    })
    return found
  })
  const named = anchors.get(alias.source) ?? []
  let [low, high] = [0, named.length]
  while (low < high) {
    const middle = (low + high) >>> 1
    if (offsetOf(named[middle]) < offsetOf(alias)) low = middle + 1
    else high = middle
  }
  return named[low - 1]
}

/** The text of a map's key as it was written, so that `010` stays `010`. */
function keyText(key: unknown): string | null {
  if (!isScalar(key)) return null
  return typeof key.value === 'string' ? key.value : (key.source ?? String(key.value))
}

type Reporter = (code: string, message: string, at: Node) => void

const reporterOf =
  ({ conversion, position }: Reading, object: string | null): Reporter =>
  (code, message, at) =>
    void conversion.problems.push({
      severity: 'error',
      code,
      message,
      ...position(offsetOf(at)),
      object,
    })

/** What an alias stands for; null past the limit, and where it names nothing. */
function expanded(
  alias: Alias,
  { conversion, document }: Reading,
  report: Reporter,
): Node | undefined {
  conversion.aliases++
  const { aliases } = conversion.limits
  if (conversion.aliases === aliases + 1)
    report(
      'limit-aliases',
      `more than ${aliases} aliases are expanded (limit: aliases); write the values out`,
      alias,
    )
  if (conversion.aliases > aliases) return undefined
  const target = anchored(document, alias)
  if (!target) report('syntax', `the alias *${alias.source} names no anchor before it`, alias)
  return target
}

/** A node as plain values. Reports duplicate keys, excess aliases and excess depth, and goes on. */
function toPlain(
  node: Node | null | undefined,
  reading: Reading,
  object: string | null,
  depth: number,
): Plain {
  const { conversion } = reading
  const report = reporterOf(reading, object)
  if (!node) return null
  if (depth > conversion.limits.depth) {
    report('limit-depth', `nested more than ${conversion.limits.depth} deep (limit: depth)`, node)
    return null
  }
  if (isAlias(node)) {
    const target = expanded(node, reading, report)
    return toPlain(target, { ...reading, expands: true }, object, depth + 1)
  }
  if (reading.expands && conversion.expanded++ >= MOST_EXPANDED) {
    if (conversion.expanded === MOST_EXPANDED + 1)
      report(
        'limit-aliases',
        `the aliases stand for more than ${MOST_EXPANDED} values (limit: aliases); write less with them`,
        node,
      )
    return null
  }
  if (isScalar(node))
    return typeof node.value === 'bigint' ? Number(node.value) : (node.value as Plain)
  if (isSeq(node))
    return node.items.map((item) => toPlain(item as Node, reading, object, depth + 1))
  if (!isMap(node)) return null
  const out: { [key: string]: Plain } = {}
  for (const pair of node.items) {
    const name = keyText(pair.key)
    if (name === null)
      report(
        'bad-key',
        'a key is a plain word here, not a list or a map',
        (pair.key as Node) ?? node,
      )
    else if (Object.hasOwn(out, name))
      report('duplicate-key', `"${name}" is given twice; keep one of them`, pair.key as Node)
    else setKey(out, name, toPlain(pair.value as Node, reading, object, depth + 1))
  }
  return out
}
