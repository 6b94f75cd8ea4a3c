import { familyOf, type Address } from '../address/address'
import { containsPrefix, isPrefixFault, parsePrefix, type Prefix } from '../address/prefix'
import { longestMatch } from '../address/prefix-table'
import { isMapSection, MAP_SECTIONS, type MapSection } from '../format/schema/document'
import { splitRef } from '../format/ref'
import type { Belonging } from './belonging'

/** By the key of an attribute: the section of the objects that its value names. */
const NAMED: Readonly<Record<string, MapSection>> = {
  ...(Object.fromEntries(MAP_SECTIONS.map((section) => [section, section])) as object),
  network: 'networks',
  defaultRouteTable: 'routeTables',
  routeTable: 'routeTables',
  boundary: 'ruleSets',
  ruleSet: 'ruleSets',
  localRules: 'ruleSets',
  subnet: 'subnets',
  interface: 'interfaces',
  targets: 'interfaces',
  gateway: 'gateways',
  nat: 'nats',
  endpoint: 'endpoints',
  peering: 'peerings',
  transit: 'transits',
  inspect: 'firewalls',
  linkedTo: 'networks',
}

/** Something that a text names: an object, a tag or a range. */
interface Meant {
  /** The unit it belongs to; null where it belongs to none. */
  readonly unit: number | null
  /** What it is, seen from that unit. */
  readonly form: string
}

/** The units by the names that one object gives them, such as the attachments of a transit. */
export type Labels = ReadonlyMap<string, number>

/**
 * How the texts of an estate read once the names and ranges of units are left out. Each is told
 * with the key of its attribute, and the labels that its object gives.
 */
export interface Tokens {
  /** The text of a value, seen from a unit. */
  readonly of: (key: string, value: string, labels: Labels, unit: number) => string
  /** The unit that a value names, or names a part of. */
  readonly unitNamed: (key: string, value: string, labels: Labels) => number | null
}

/** The tokens of an estate. Each costs a few look-ups. */
export function tokensOf(belonging: Belonging): Tokens {
  const prefixes = new Map<string, Prefix | null>()
  const meant = (key: string, value: string, labels: Labels): Meant | null =>
    labelled(labels, key, value) ?? named(belonging, key, value)
  const prefix = (value: string): Prefix | null => {
    let known = prefixes.get(value)
    if (known === undefined) prefixes.set(value, (known = readPrefix(value)))
    return known
  }
  const owner = (value: string): number | null => {
    const unit = belonging.publicAddresses.get(value)
    if (unit !== undefined) return unit
    const range = prefix(value)
    return range === null ? null : (unitAround(belonging, range) ?? null)
  }
  return {
    of: (key, value, labels, unit) => {
      const one = meant(key, value, labels)
      if (one !== null) return seenFrom(belonging, one, unit)
      const address = belonging.publicAddresses.get(value)
      if (address !== undefined)
        return seenFrom(belonging, { unit: address, form: 'public address' }, unit)
      const range = prefix(value)
      return range === null ? value : rangeToken(belonging, range, unit)
    },
    unitNamed: (key, value, labels) => {
      const one = meant(key, value, labels)
      return one === null ? owner(value) : one.unit
    },
  }
}

function labelled(labels: Labels, key: string, value: string): Meant | null {
  const unit = labels.get(value)
  return unit === undefined || (key !== 'via' && key !== 'learn') ? null : { unit, form: 'here' }
}

/** A name with its section, such as `subnets/web`. */
const REF = /^[A-Za-z]+\//

function named({ unitOf, formOf }: Belonging, key: string, value: string): Meant | null {
  if (key === 'onlyTags' || key === 'tag') {
    const tag = `tag ${value}`
    const unit = unitOf.get(tag) ?? null
    return { unit, form: unit === null ? tag : 'a tag of its own' }
  }
  const section = NAMED[key] ?? null
  if (section === null && !REF.test(value)) return null
  const [of, id] = section === null ? splitRef(value) : [section, value]
  if (!isMapSection(of)) return null
  const ref = `${of}/${of === 'firewalls' && key === 'inspect' ? id.split('/')[0] : id}`
  const form = formOf.get(ref)
  if (form === undefined) return section === null ? null : { unit: null, form: `no ${of}` }
  const unit = unitOf.get(ref) ?? null
  return { unit, form: unit === null ? ref : form }
}

function seenFrom({ kinds, joins }: Belonging, { unit, form }: Meant, from: number): string {
  if (unit !== null) return unit === from ? `own ${form}` : `${form} of ${kinds[unit]}`
  const sides = joins.get(form)
  if (sides === undefined) return form
  const kindAt = (side: number): string => kinds[sides[side]!] ?? ''
  if (sides.includes(from)) return `own peering with ${kindAt(sides[0] === from ? 1 : 0)}`
  return `peering of ${[kindAt(0), kindAt(1)].sort().join(' and ')}`
}

/** The unit in whose ranges a prefix lies; undefined where it is wider, or elsewhere. */
function unitAround({ space, ranges }: Belonging, prefix: Prefix): number | undefined {
  return longestMatch(space, prefix.address).find((unit) =>
    ranges[unit]!.some((range) => containsPrefix(range, prefix)),
  )
}

function rangeToken(belonging: Belonging, prefix: Prefix, from: number): string {
  const own = placeIn(belonging, from, prefix)
  if (own !== null) return `own ${own}`
  const unit = unitAround(belonging, prefix)
  if (unit === undefined) return `${prefix.address}/${prefix.length}`
  return `${placeIn(belonging, unit, prefix)} of ${belonging.kinds[unit]}`
}

/** Where a prefix lies in the ranges of a unit; null where it lies in none of them. */
function placeIn({ ranges }: Belonging, unit: number, prefix: Prefix): string | null {
  const at = ranges[unit]!.findIndex((range) => containsPrefix(range, prefix))
  if (at < 0) return null
  const { address, length } = ranges[unit]![at]!
  const bits = `range ${at} of family ${familyOf(address)}`
  if (length === prefix.length) return bits
  return `${bits} from ${distance(address, prefix.address)} for ${prefix.length - length}`
}

const distance = (from: Address, to: Address): string =>
  typeof from === 'number' ? String((to as number) - from) : String((to as bigint) - from)

/** A text that is a prefix or an address, as a prefix; null for any other text. */
function readPrefix(text: string): Prefix | null {
  if (!/^[0-9a-fA-F]*[.:][0-9a-fA-F.:]*(\/\d+)?$/.test(text)) return null
  const read = parsePrefix(text)
  if (!isPrefixFault(read)) return read
  return read.fault === 'no-length' ? (parsePrefix(read.meant!) as Prefix) : null
}
