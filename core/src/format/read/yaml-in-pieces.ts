import { isMapSection } from '../schema/document'
import {
  locator,
  type Conversion,
  type Locator,
  type SourceDocument,
  type SourceEntry,
  type SourceFile,
  type SourceSection,
} from './source'
import { readPiece } from './yaml'

/** Below this a file is read in one piece: that costs nothing worth saving. */
const WORTH_IT = 1_000_000

/**
 * Reads a large YAML file object by object, so that the syntax tree of only one object is in memory
 * at a time. It takes files of the usual layout: sections at the left edge, one object after the
 * other below them at one indentation. Null where a file is laid out otherwise, or uses anchors,
 * which reach from one object into another; it is then read in one piece.
 */
export function readYamlInPieces(
  file: SourceFile,
  conversion: Conversion,
): SourceDocument[] | null {
  const { text } = file
  if (text.length < WORTH_IT || /(^|[\s,[{:])[&*][A-Za-z0-9_]/.test(text) || /^[%{[]/m.test(text))
    return null
  const position = locator(file)
  const documents: SourceDocument[] = []
  let sections: SourceSection[] = []
  const endDocument = (at: number): void => {
    if (sections.length > 0) documents.push({ sections, at: position(at) })
    sections = []
  }
  for (const { start, end } of topLevel(text)) {
    const line = lineAt(text, start)
    if (line.startsWith('---') || line.startsWith('...')) {
      if (line.trim() !== '---' && line.trim() !== '...') return null
      endDocument(start)
      continue
    }
    const name = /^([A-Za-z]+):\s*(#.*)?$/.exec(line)?.[1]
    const lines =
      name !== undefined && isMapSection(name)
        ? objectsIn(text, start + line.length + 1, end)
        : null
    if (name !== undefined && isMapSection(name) && lines === null) return null
    sections.push(
      ...(name !== undefined && lines
        ? [inPieces(name, text, start, lines, position, conversion)]
        : readPiece(text.slice(start, end), start, null, position, conversion)),
    )
  }
  endDocument(text.length)
  return documents
}

interface Span {
  readonly start: number
  readonly end: number
}

function lineAt(text: string, start: number): string {
  const end = text.indexOf('\n', start)
  return text.slice(start, end < 0 ? text.length : end).replace(/\r$/, '')
}

/**
 * Cuts a text where a line begins at the left edge; comments and entries of lists do not begin
 * anything.
 */
function* topLevel(text: string): Generator<Span> {
  let start = -1
  for (let at = 0; at < text.length;) {
    const first = text[at]!
    const begins = !/[\s#]/.test(first) && !(first === '-' && text[at + 1] !== '-')
    if (begins) {
      if (start >= 0) yield { start, end: at }
      start = at
    }
    const next = text.indexOf('\n', at)
    at = next < 0 ? text.length : next + 1
  }
  if (start >= 0) yield { start, end: text.length }
}

/**
 * The objects of a section, cut at lines of the first object's indentation; null where one stands
 * further left.
 */
function objectsIn(text: string, from: number, end: number): Span[] | null {
  const spans: Span[] = []
  let indent = -1
  let start = -1
  for (let at = from; at < end;) {
    const next = text.indexOf('\n', at)
    const stop = next < 0 || next >= end ? end : next
    let column = 0
    while (at + column < stop && text[at + column] === ' ') column++
    const first = at + column < stop ? text[at + column]! : '\n'
    if (first !== '\n' && first !== '\r' && first !== '#') {
      if (indent < 0) indent = column
      if (column < indent) return null
      if (column === indent) {
        if (start >= 0) spans.push({ start, end: at })
        start = at
      }
    }
    at = stop + 1
  }
  if (start >= 0) spans.push({ start, end })
  return spans
}

function inPieces(
  name: string,
  text: string,
  start: number,
  spans: readonly Span[],
  position: Locator,
  conversion: Conversion,
): SourceSection {
  const at = position(start)
  const read = ({ start: from, end }: Span, into: Conversion): SourceEntry[] =>
    readPiece(text.slice(from, end), from, name, position, into).map((section) => section.whole())
  return {
    name,
    at,
    valueAt: at,
    shape: spans.length === 0 ? 'empty' : 'map',
    *entries() {
      for (const span of spans) {
        for (const entry of read(span, conversion)) {
          // Only what is needed is kept: to say where something stands, the few lines are read
          // again.
          const again = (): SourceEntry =>
            read(span, { ...conversion, problems: [] }).find((one) => one.key === entry.key) ??
            entry
          yield {
            key: entry.key,
            value: entry.value,
            at: entry.at,
            find: (path, part) => again().find(path, part),
          }
        }
      }
    },
    whole: () => ({ key: name, value: null, at: () => at, find: () => at }),
  }
}
