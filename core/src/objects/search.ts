import { formatAddress, parseAddress, type Address } from '../address/address'
import { containsAddress, formatPrefix, prefixOf } from '../address/prefix'
import { MAP_SECTIONS, type MapSection } from '../format/schema/document'
import type { Model } from '../model/model'
import { SECTION_WORDS } from '../root-causes/section-words'

/** An object that a text finds. */
export interface FoundObject {
  /** `section/id`. */
  readonly ref: string
  /** What it is, and what of it was found: `subnet, holds it: 10.40.1.0/24`. */
  readonly says: string
}

/**
 * The objects that a text finds, at most so many. An address finds who has it, then the subnets,
 * networks and others whose ranges hold it, the longest first. Any other text finds the objects
 * whose id, title or own address has it; ids that begin with it come first. Linear in the estate.
 */
export function searchEstate(model: Model, text: string, most: number): FoundObject[] {
  const word = text.trim().toLowerCase()
  if (word === '') return []
  const address = parseAddress(word)
  const found = address === null ? byText(model, word, most) : byAddress(model, address)
  return found.slice(0, most)
}

/** The attributes of an object that hold single addresses, each with what it has them for. */
const OWN_ADDRESSES: readonly (readonly [attribute: string, says: string])[] = [
  ['addresses', 'has it'],
  ['publicAddress', 'its public address'],
  ['publicAddresses', 'its public address'],
]

interface Attributes {
  readonly title?: string
  readonly ranges?: readonly string[]
  readonly [attribute: string]: unknown
}

/** The addresses that stand in an attribute, written once or in a list. */
const textsIn = (value: unknown): readonly string[] =>
  (Array.isArray(value) ? value : [value]).filter((one): one is string => typeof one === 'string')

function* objectsOf({ estate }: Model): Generator<[MapSection, string, Attributes]> {
  for (const section of MAP_SECTIONS)
    for (const [id, object] of estate[section] as ReadonlyMap<string, Attributes>)
      yield [section, id, object]
}

const wordOf = (section: MapSection): string => SECTION_WORDS[section][0]

function byAddress(model: Model, address: Address): FoundObject[] {
  const owners: FoundObject[] = []
  const holders: { readonly length: number; readonly found: FoundObject }[] = []
  for (const [section, id, object] of objectsOf(model)) {
    const ref = `${section}/${id}`
    const own = OWN_ADDRESSES.find(([attribute]) =>
      textsIn(object[attribute]).some((one) => parseAddress(one) === address),
    )
    if (own) owners.push({ ref, says: `${wordOf(section)}, ${own[1]}` })
    else if (section === 'publicAddresses' && parseAddress(id) === address)
      owners.push({ ref, says: 'public address, reserved' })
    for (const range of textsIn(object.ranges)) {
      const prefix = prefixOf(range)
      if (!containsAddress(prefix, address)) continue
      const found = { ref, says: `${wordOf(section)}, holds it: ${formatPrefix(prefix)}` }
      holders.push({ length: prefix.length, found })
    }
  }
  holders.sort((a, b) => b.length - a.length)
  return [...owners, ...holders.map(({ found }) => found)]
}

function byText(model: Model, word: string, most: number): FoundObject[] {
  const ranks: FoundObject[][] = [[], [], []]
  for (const [section, id, object] of objectsOf(model)) {
    const rank = rankOf(word, id, object)
    if (rank !== null && ranks[rank]!.length < most)
      ranks[rank]!.push({ ref: `${section}/${id}`, says: aboutText(section, object) })
    if (ranks[0]!.length >= most) break
  }
  return ranks.flat()
}

/** 0: the id begins with it; 1: the id has it; 2: something else of the object has it. */
function rankOf(word: string, id: string, object: Attributes): 0 | 1 | 2 | null {
  const at = id.toLowerCase().indexOf(word)
  if (at >= 0) return at === 0 ? 0 : 1
  if (object.title?.toLowerCase().includes(word)) return 2
  return ownTexts(object).some((one) => one.includes(word)) ? 2 : null
}

const ownTexts = (object: Attributes): string[] => [
  ...textsIn(object.ranges),
  ...OWN_ADDRESSES.flatMap(([attribute]) => textsIn(object[attribute])),
]

const MOST_TEXTS = 3

function aboutText(section: MapSection, object: Attributes): string {
  const texts = ownTexts(object).map((one) => {
    const address = parseAddress(one)
    return address === null ? one : formatAddress(address)
  })
  return [wordOf(section), object.title, ...texts.slice(0, MOST_TEXTS)].filter(Boolean).join(', ')
}
