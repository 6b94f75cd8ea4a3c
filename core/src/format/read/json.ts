import { visit } from 'jsonc-parser'
import { readJsonAtOnce } from './json-at-once'
import { offsetIn, type Place } from './json-places'
import {
  locator,
  setKey,
  type Conversion,
  type Locator,
  type Plain,
  type SourceDocument,
  type SourceEntry,
  type SourceFile,
  type SourceSection,
} from './source'

interface Frame {
  readonly value: Plain[] | { [key: string]: Plain }
  key: string | null
  keyOffset: number
}

/** An entry while a file is being read, and where it stands. */
interface Found extends Place {
  readonly key: string
  readonly value: Plain
}

/**
 * Reads strict JSON (RFC 8259), much faster than YAML. Null where the text is no strict
 * JSON: the YAML reader then says what is wrong with it, or takes it.
 */
export function readJson(file: SourceFile, conversion: Conversion): SourceDocument[] | null {
  if (!/^\s*\{/.test(file.text)) return null
  return readJsonAtOnce(file, conversion) ?? inOnePass(file, conversion)
}

/** In one pass that notes where everything stands. */
// eslint-disable-next-line max-lines-per-function -- one pass whose handlers share its state
export function inOnePass(file: SourceFile, conversion: Conversion): SourceDocument[] | null {
  const position = locator(file)
  const sections: {
    key: string
    keyOffset: number
    start: number
    shape: SourceSection['shape']
    value: Plain
    entries: Found[]
  }[] = []
  const stack: Frame[] = []
  const problems: typeof conversion.problems = []
  let strict = true
  let rootStart = 0
  // Where the value of the current section and of the current entry of a section begins.
  const starts: number[] = []

  const name = (): string | null => {
    const [root, section] = stack
    if (!root?.key) return null
    return section && section.key !== null ? `${root.key}/${section.key}` : root.key
  }
  const put = (value: Plain, start: number, end: number): void => {
    const frame = stack.at(-1)
    if (!frame) return
    if (Array.isArray(frame.value)) {
      if (stack.length === 2)
        sections
          .at(-1)
          ?.entries.push({ key: String(frame.value.length), keyOffset: start, value, start, end })
      frame.value.push(value)
      return
    }
    const key = frame.key!
    if (stack.length === 1) {
      const shape = Array.isArray(value)
        ? 'list'
        : typeof value === 'object' && value !== null
          ? 'map'
          : value === null
            ? 'empty'
            : 'scalar'
      const open = sections.at(-1)!
      open.shape = shape
      open.value = value
      open.start = start
    } else if (stack.length === 2)
      sections.at(-1)?.entries.push({ key, keyOffset: frame.keyOffset, value, start, end })
    else if (Object.hasOwn(frame.value, key)) {
      problems.push({
        severity: 'error',
        code: 'duplicate-key',
        message: `"${key}" is given twice; keep one of them`,
        ...position(frame.keyOffset),
        object: name(),
      })
      return
    }
    // What stands in a section is kept with its entries alone.
    if (stack.length > 2) setKey(frame.value, key, value)
  }
  const begin = (value: Frame['value'], offset: number): void => {
    if (stack.length === 0) rootStart = offset
    stack.push({ value, key: null, keyOffset: offset })
    starts.push(offset)
    if (stack.length === conversion.limits.depth + 2) strict = false
  }
  const end = (offset: number): void => {
    const frame = stack.pop()
    if (frame) put(frame.value, starts.pop()!, offset + 1)
  }
  visit(
    file.text,
    {
      onObjectBegin: (offset) => begin({}, offset),
      onArrayBegin: (offset) => begin([], offset),
      onObjectEnd: (offset) => end(offset),
      onArrayEnd: (offset) => end(offset),
      onObjectProperty: (key, offset) => {
        const frame = stack.at(-1)!
        frame.key = key
        frame.keyOffset = offset
        if (stack.length === 1)
          sections.push({
            key,
            keyOffset: offset,
            start: offset,
            shape: 'empty',
            value: null,
            entries: [],
          })
      },
      onLiteralValue: (value, offset, length) => put(value as Plain, offset, offset + length),
      onError: () => (strict = false),
    },
    { disallowComments: true, allowTrailingComma: false },
  )
  if (!strict) return null
  conversion.problems.push(...problems)
  const source = sections.map((section): SourceSection => ({
    name: section.key,
    at: position(section.keyOffset),
    valueAt: position(section.start),
    shape: section.shape,
    entries: () => section.entries.map((found) => entryOf(file.text, found, position)),
    whole: () => wholeOf(file.text, section, position),
  }))
  return [{ sections: source, at: position(rootStart) }]
}

function entryOf(text: string, found: Found, position: Locator): SourceEntry {
  return {
    key: found.key,
    value: found.value,
    at: () => position(found.keyOffset),
    find: (path, part) =>
      position(path.length === 0 ? found.keyOffset : offsetIn(text, found, path, part)),
  }
}

/** A section that is one object: its entries are its keys. */
function wholeOf(
  text: string,
  section: {
    key: string
    keyOffset: number
    start: number
    value: Plain
    entries: readonly Found[]
  },
  position: Locator,
): SourceEntry {
  const value: { [key: string]: Plain } = {}
  for (const entry of section.entries)
    if (!Object.hasOwn(value, entry.key)) setKey(value, entry.key, entry.value)
  const isMap =
    typeof section.value === 'object' && section.value !== null && !Array.isArray(section.value)
  const end = section.entries.at(-1)?.end ?? section.start + 1
  return entryOf(
    text,
    {
      key: section.key,
      keyOffset: section.keyOffset,
      value: isMap ? value : section.value,
      start: section.start,
      end: text.indexOf('}', end) + 1,
    },
    position,
  )
}
