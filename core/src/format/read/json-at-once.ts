import { once } from '../../kept'
import type { Conversion, Plain, SourceDocument, SourceEntry, SourceFile, SourceSection } from './source'

/**
 * Reads strict JSON by the engine's own parser, several times as fast as in a pass that notes where
 * everything stands; that pass (`inOnePass`) is made once somebody asks for a place. Null where the
 * text is no JSON, where a key is given twice (the parser keeps the last without a word), where it is
 * nested too deep, or where ids are numbers (plain objects move those to the front).
 */
export function readJsonAtOnce(file: SourceFile, { limits }: Conversion, inOnePass: () => SourceDocument[] | null): SourceDocument[] | null {
  const root = parsed(file.text)
  if (!isMap(root)) return null
  if (countNames(root, limits.depth + 1) !== namesIn(file.text)) return null
  if (Object.values(root).some((section) => isMap(section) && Object.keys(section).some(isPlace))) return null
  const placed = once(() => placesOf(inOnePass()!))
  const sections = Object.keys(root).map((name): SourceSection => {
    const section = root[name]!
    const there = (): PlacedSection => placed().sections.get(name)!
    const entryAt = (key: string, value: Plain): SourceEntry => ({
      key,
      value,
      at: () => there().entries.get(key)!.at(),
      find: (path, part) => there().entries.get(key)!.find(path, part),
    })
    return {
      name,
      get at() {
        return there().section.at
      },
      get valueAt() {
        return there().section.valueAt
      },
      shape: shapeOf(section),
      entries: () => (isMap(section) || Array.isArray(section) ? Object.entries(section).map(([key, value]) => entryAt(key, value)) : []),
      whole: () => ({ key: name, value: section, at: () => there().section.whole().at(), find: (path, part) => there().section.whole().find(path, part) }),
    }
  })
  return [
    {
      sections,
      get at() {
        return placed().at
      },
    },
  ]
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text) as unknown
  } catch {
    return undefined
  }
}

const isMap = (value: unknown): value is { [key: string]: Plain } => typeof value === 'object' && value !== null && !Array.isArray(value)
/** A key that plain objects move to the front. */
export const isPlace = (key: string): boolean => /^(0|[1-9]\d{0,9})$/.test(key)
const shapeOf = (value: Plain): SourceSection['shape'] => (Array.isArray(value) ? 'list' : isMap(value) ? 'map' : value === null ? 'empty' : 'scalar')

/** How many names of keys there are; not a number where anything is nested deeper than `left`. */
function countNames(value: Plain, left: number): number {
  if (typeof value !== 'object' || value === null) return 0
  if (left === 0) return Number.NaN
  let count = 0
  if (Array.isArray(value)) for (const one of value) count += countNames(one, left - 1)
  else for (const key of Object.keys(value)) count += 1 + countNames(value[key]!, left - 1)
  return count
}

/** How many names of keys stand in a text of JSON: texts with a colon behind them. */
function namesIn(text: string): number {
  const texts = /"[^"\\]*(?:\\.[^"\\]*)*"(\s*:)?/g
  let count = 0
  for (let found = texts.exec(text); found !== null; found = texts.exec(text)) if (found[1] !== undefined) count++
  return count
}

interface PlacedSection {
  readonly section: SourceSection
  readonly entries: ReadonlyMap<string | null, SourceEntry>
}

const placesOf = ([document]: readonly SourceDocument[]) => ({
  at: document!.at,
  sections: new Map(
    [...document!.sections!].map((section): [string | null, PlacedSection] => [
      section.name,
      { section, entries: new Map([...section.entries()].map((entry) => [entry.key, entry])) },
    ]),
  ),
})
