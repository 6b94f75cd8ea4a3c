import {
  isAlias,
  isMap,
  isScalar,
  isSeq,
  parseAllDocuments,
  type Document,
  type Node,
  type Pair,
  type ParsedNode,
} from 'yaml'
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
}

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
    const items = isMap(inside) ? (inside.items as Pair<Node, Node | null>[]) : []
    const item = isSeq(inside) ? (inside.items[Number(step)] as Node | undefined) : undefined
    const next = item
      ? { key: item, value: item }
      : items.find((pair) => keyText(pair.key) === String(step))
    if (!next) {
      wanted = 'key'
      break
    }
    place = next
  }
  return offsetOf(wanted === 'key' || path.length === 0 ? place.key : (place.value ?? place.key))
}

function resolve(node: Node | null | undefined, { document }: Reading): Node | null {
  return isAlias(node) ? (node.resolve(document) ?? null) : (node ?? null)
}

/** The text of a map's key as it was written, so that `010` stays `010`. */
function keyText(key: unknown): string | null {
  if (!isScalar(key)) return null
  return typeof key.value === 'string' ? key.value : (key.source ?? String(key.value))
}

/** A node as plain values. Reports duplicate keys, excess aliases and excess depth, and goes on. */
function toPlain(
  node: Node | null | undefined,
  reading: Reading,
  object: string | null,
  depth: number,
): Plain {
  const { conversion, position } = reading
  const report = (code: string, message: string, at: Node): void => {
    conversion.problems.push({
      severity: 'error',
      code,
      message,
      ...position(offsetOf(at)),
      object,
    })
  }
  if (!node) return null
  if (depth > conversion.limits.depth) {
    report('limit-depth', `nested more than ${conversion.limits.depth} deep (limit: depth)`, node)
    return null
  }
  if (isAlias(node)) {
    conversion.aliases++
    const { aliases } = conversion.limits
    if (conversion.aliases === aliases + 1)
      report(
        'limit-aliases',
        `more than ${aliases} aliases are expanded (limit: aliases); write the values out`,
        node,
      )
    if (conversion.aliases > aliases) return null
    const target = node.resolve(reading.document)
    if (!target) report('syntax', `the alias *${node.source} names no anchor before it`, node)
    return toPlain(target, reading, object, depth + 1)
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
