import {
  isMap,
  isSeq,
  parseAllDocuments,
  type Document,
  type Node,
  type ParsedNode,
  type YAMLSeq,
} from 'yaml'
import { changeBetween, type Operation } from '../changes/index'
import { pointerParts } from '../changes/pointer'
import { readEstate } from '../format/read/read'
import type { SourceFile } from '../format/read/source'
import { isListSection } from '../format/schema/document'
import type { Estate } from '../format/estate'

/** Files larger than this together, in characters, are not edited in place. */
const MOST_CHARACTERS = 5_000_000

type Parsed = Document.Parsed<ParsedNode>

/**
 * The files that an estate was read from, edited so that they hold another state of it: comments,
 * order and notation of everything else stay. An object that comes goes to the file that holds most
 * of its section. Null where that cannot be done, such as for anchors or several documents in one
 * file: what is given was read again, and is the other state. Costs a reading of the files.
 */
export function filesAfter(
  files: readonly SourceFile[],
  before: Estate,
  after: Estate,
): SourceFile[] | null {
  const total = files.reduce((sum, { text }) => sum + text.length, 0)
  if (files.length === 0 || total > MOST_CHARACTERS) return null
  const documents = files.map(({ text }) => onlyDocument(text))
  if (documents.some((one) => one === null)) return null
  const known = documents as Parsed[]
  const touched = new Set<Parsed>()
  for (const operation of changeBetween(before, after)) {
    const document = edit(known, operation)
    if (!document) return null
    touched.add(document)
  }
  const edited = files.map(({ name, text }, at) => ({
    name,
    text: touched.has(known[at]!)
      ? known[at]!.toString({ lineWidth: 120, flowCollectionPadding: true })
      : text,
  }))
  const { estate } = readEstate(edited)
  return estate && changeBetween(estate, after).length === 0 ? edited : null
}

function onlyDocument(text: string): Parsed | null {
  const parsed = parseAllDocuments<ParsedNode>(text, { version: '1.2', prettyErrors: false })
  if (!Array.isArray(parsed) || parsed.length !== 1) return null
  const [document] = parsed as Parsed[]
  return document!.errors.length === 0 && isMap(document!.contents) ? document! : null
}

/** Edits the document that an operation is about, and gives it; null where none can be edited. */
function edit(documents: readonly Parsed[], { op, path, ...rest }: Operation): Parsed | null {
  const parts = pointerParts(path)!
  const value = 'value' in rest ? rest.value : undefined
  const document = documentFor(documents, parts, op)
  if (!document) return null
  const way = stepsIn(document, parts)
  if (op === 'remove') return document.deleteIn(way) ? document : null
  const list = document.getIn(way.slice(0, -1), true)
  const node = document.createNode(plain(value), { aliasDuplicateObjects: false }) as Node
  if (op === 'add' && isSeq(list)) {
    ;(list as YAMLSeq).items.splice(Number(way.at(-1)), 0, node)
    return document
  }
  document.setIn(way, node)
  return document
}

/** The document that holds a place, or the one where something new belongs. */
function documentFor(
  documents: readonly Parsed[],
  parts: readonly string[],
  op: Operation['op'],
): Parsed | undefined {
  const [section, id] = parts
  const having = documents.filter((one) => one.hasIn([section]))
  // Entries of a list that stands in several files are counted over all of them.
  if (isListSection(section!) && having.length > 1) return undefined
  const holding = having.find(
    (one) => id === undefined || one.hasIn(stepsIn(one, parts.slice(0, 2))),
  )
  if (holding) return holding
  if (op !== 'add' || parts.length > 2) return undefined
  const sizeOf = (one: Parsed): number => {
    const held = one.get(section, true) as { items?: unknown[] } | undefined
    return held?.items?.length ?? 0
  }
  return [...documents].sort((a, b) => sizeOf(b) - sizeOf(a))[0]
}

/** The parts of a pointer as the steps of a document: numbers where there is a list. */
function stepsIn(document: Parsed, parts: readonly string[]): (string | number)[] {
  const way: (string | number)[] = []
  for (const part of parts)
    way.push(isSeq(document.getIn(way, true)) ? (part === '-' ? Infinity : Number(part)) : part)
  return way
}

const plain = (value: unknown): unknown =>
  value instanceof Map ? Object.fromEntries(value as Map<string, unknown>) : value
