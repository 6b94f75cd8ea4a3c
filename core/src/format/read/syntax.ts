import { LineCounter, parseAllDocuments, type Document, type ParsedNode } from 'yaml'
import type { Problem } from '../problem'

export interface SourceFile {
  readonly name: string
  readonly text: string
}

/** One YAML document of one file, with what is needed to say where a node stands. */
export interface SourceDocument {
  readonly file: string
  readonly lines: LineCounter
  readonly document: Document.Parsed<ParsedNode>
}

export interface Position {
  readonly file: string
  readonly line: number
  readonly column: number
}

export function positionAt(source: SourceDocument, offset: number): Position {
  const { line, col } = source.lines.linePos(offset)
  return { file: source.file, line: Math.max(line, 1), column: Math.max(col, 1) }
}

/** Parses one file, YAML 1.2 or JSON (which YAML contains), and reports every syntax error in it. */
export function parseSyntax(file: SourceFile): { documents: SourceDocument[]; problems: Problem[] } {
  const lines = new LineCounter()
  const problems: Problem[] = []
  const text = file.text.startsWith('\ufeff') ? file.text.slice(1) : file.text
  let parsed: ReturnType<typeof parseAllDocuments<ParsedNode>>
  try {
    // Duplicate keys are found by the reader: the package compares each key with each other one.
    parsed = parseAllDocuments<ParsedNode>(text, {
      lineCounter: lines,
      uniqueKeys: false,
      prettyErrors: false,
      version: '1.2',
      keepSourceTokens: false,
    })
  } catch (error) {
    if (!(error instanceof RangeError)) throw error
    return { documents: [], problems: [tooDeep(file.name)] }
  }
  const documents: SourceDocument[] = []
  for (const document of Array.isArray(parsed) ? parsed : []) {
    const source = { file: file.name, lines, document: document as SourceDocument['document'] }
    for (const error of document.errors) {
      const sentence = error.message.replace(/\s+/g, ' ').trim()
      problems.push({
        severity: 'error',
        code: 'syntax',
        message: `${sentence}; the text is neither YAML nor JSON from here on`,
        ...positionAt(source, error.pos[0]),
        object: null,
      })
    }
    documents.push(source)
  }
  return { documents, problems }
}

const tooDeep = (file: string): Problem => ({
  severity: 'error',
  code: 'limit-depth',
  message: 'the text is nested too deeply to be an estate (limit: depth)',
  file,
  line: 1,
  column: 1,
  object: null,
})
