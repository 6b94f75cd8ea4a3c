import { lazy } from '../../incremental/cells'
import { countNamesIn, offsetIn, placesIn, startOf, type Place } from './json-places'
import {
  locator,
  type Conversion,
  type Plain,
  type SourceDocument,
  type SourceEntry,
  type SourceFile,
  type SourceSection,
} from './source'

/**
 * Reads strict JSON by the engine's own parser, several times as fast as in a pass that notes where
 * everything stands; places are found when one is asked for. Null where the text is no JSON, where
 * a key is given twice (the parser keeps the last without a word), where it is nested too deep, or
 * where ids are numbers (plain objects move those to the front).
 */
export function readJsonAtOnce(file: SourceFile, { limits }: Conversion): SourceDocument[] | null {
  const { text } = file
  const root = parsed(text)
  if (!isMap(root)) return null
  if (countNames(root, limits.depth + 1) !== countNamesIn(text)) return null
  if (Object.values(root).some((section) => isMap(section) && Object.keys(section).some(isPlace)))
    return null
  const position = locator(file)
  const sectionPlaces = lazy(() => placesIn(text, startOf(text)))
  const sections = Object.keys(root).map((name): SourceSection => {
    const section = root[name]!
    const own = (): Place => sectionPlaces().get(name)!
    const entryPlaces = lazy(() => placesIn(text, own().start))
    const entry = (key: string, value: Plain, place: () => Place): SourceEntry => ({
      key,
      value,
      at: () => position(place().keyOffset),
      find: (path, part) =>
        position(path.length === 0 ? place().keyOffset : offsetIn(text, place(), path, part)),
    })
    return {
      name,
      get at() {
        return position(own().keyOffset)
      },
      get valueAt() {
        return position(own().start)
      },
      shape: shapeOf(section),
      entries: () =>
        isMap(section) || Array.isArray(section)
          ? Object.entries(section).map(([key, value]) =>
              entry(key, value, () => entryPlaces().get(key)!),
            )
          : [],
      whole: () => entry(name, section, own),
    }
  })
  return [
    {
      sections,
      get at() {
        return position(startOf(text))
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

const isMap = (value: unknown): value is { [key: string]: Plain } =>
  typeof value === 'object' && value !== null && !Array.isArray(value)
/** A key that plain objects move to the front. */
export const isPlace = (key: string): boolean => /^(0|[1-9]\d{0,9})$/.test(key)
const shapeOf = (value: Plain): SourceSection['shape'] =>
  Array.isArray(value) ? 'list' : isMap(value) ? 'map' : value === null ? 'empty' : 'scalar'

/** How many names of keys there are; not a number where anything is nested deeper than `left`. */
function countNames(value: Plain, left: number): number {
  if (typeof value !== 'object' || value === null) return 0
  if (left === 0) return Number.NaN
  let count = 0
  if (Array.isArray(value)) for (const one of value) count += countNames(one, left - 1)
  else for (const key of Object.keys(value)) count += 1 + countNames(value[key]!, left - 1)
  return count
}
