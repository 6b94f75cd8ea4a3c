import { locator, type Conversion, type SourceFile } from './source'

/**
 * Brackets nested deeper than this are refused before a parser sees them: parsers call themselves
 * for each, and the engine's stack ends at some thousands. No estate comes near it, and a reader
 * with the limit `depth` says so for what is less deep.
 */
const MOST_BRACKETS = 1_000

const [QUOTE, BACKSLASH] = [0x22, 0x5c]
const [OPEN_LIST, CLOSE_LIST, OPEN_MAP, CLOSE_MAP] = [0x5b, 0x5d, 0x7b, 0x7d]

/** Reports a text whose brackets are nested too deep to be parsed. Costs one pass over the text. */
export function isNestedTooDeep(file: SourceFile, { problems }: Conversion): boolean {
  const offset = deeperThan(file.text, MOST_BRACKETS)
  if (offset === null) return false
  problems.push({
    severity: 'error',
    code: 'limit-depth',
    message: 'the text is nested too deeply to be an estate (limit: depth)',
    ...locator(file)(offset),
    object: null,
  })
  return true
}

/**
 * The place where brackets outside of quotes are first nested deeper than `most`; null where there
 * is none.
 */
function deeperThan(text: string, most: number): number | null {
  let depth = 0
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at)
    if (code === OPEN_LIST || code === OPEN_MAP) {
      if (++depth > most) return at
    } else if (code === CLOSE_LIST || code === CLOSE_MAP) depth = Math.max(0, depth - 1)
    else if (code === QUOTE) at = endOfQuoted(text, at)
  }
  return null
}

/** The closing quote of a text in quotes; where it is not closed on its line, the opening one. */
function endOfQuoted(text: string, from: number): number {
  for (let at = from + 1; at < text.length; at++) {
    const code = text.charCodeAt(at)
    if (code === QUOTE) return at
    if (code === 0x0a) return from
    if (code === BACKSLASH) at++
  }
  return from
}
