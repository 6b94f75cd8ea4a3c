import type { Limits } from './limits'
import type { Problem } from '../problem'

export interface SourceFile {
  readonly name: string
  readonly text: string
}

export interface Position {
  readonly file: string
  readonly line: number
  readonly column: number
}

export type Path = readonly (string | number)[]
/** Which part of the place a path leads to is meant. */
export type Part = 'value' | 'key'

export type Plain = string | number | boolean | null | Plain[] | { [key: string]: Plain }

/** One object of a section as it stands in a file, whatever the notation. */
export interface SourceEntry {
  /** Its id as written; null if that is no plain word. For an entry of a list its place. */
  readonly key: string | null
  readonly value: Plain
  readonly at: () => Position
  /** Where a path inside it stands, or the nearest part of it that is there. */
  readonly find: (path: Path, part: Part) => Position
}

/** One section of a document as it stands in a file. */
export interface SourceSection {
  readonly name: string | null
  readonly at: Position
  readonly valueAt: Position
  readonly shape: 'map' | 'list' | 'scalar' | 'empty'
  /** Of a map or list its entries; read one after the other, so that what is read can be let go. */
  readonly entries: () => Iterable<SourceEntry>
  /** The section as one value. */
  readonly whole: () => SourceEntry
}

export interface SourceDocument {
  /** Null where the document is no map. */
  readonly sections: Iterable<SourceSection> | null
  readonly at: Position
}

/**
 * What the readers of all notations share: where to report, and the counts of aliases and of the
 * values they stand for.
 */
export interface Conversion {
  readonly limits: Limits
  readonly problems: Problem[]
  aliases: number
  expanded: number
}

/** From an offset in a text to its line and column. */
export type Locator = (offset: number) => Position

/** From offsets in a file to lines and columns. Costs one pass over the text at the first use. */
export function locator(file: SourceFile): Locator {
  let starts: number[] | undefined
  return (offset) => {
    if (!starts) {
      starts = [0]
      for (let at = file.text.indexOf('\n'); at >= 0; at = file.text.indexOf('\n', at + 1))
        starts.push(at + 1)
    }
    let low = 0
    let high = starts.length - 1
    while (low < high) {
      const middle = (low + high + 1) >>> 1
      if (starts[middle]! <= offset) low = middle
      else high = middle - 1
    }
    return { file: file.name, line: low + 1, column: offset - starts[low]! + 1 }
  }
}

/** Sets a key of a plain object: `__proto__` is a key like any other. */
export function setKey(object: { [key: string]: Plain }, key: string, value: Plain): void {
  if (key === '__proto__')
    Object.defineProperty(object, key, {
      value,
      enumerable: true,
      writable: true,
      configurable: true,
    })
  else object[key] = value
}
