import type { Prefix } from '../address/prefix'
import { prefixTable, type PrefixTable } from '../address/prefix-table'
import type { Estate, EstateObject } from '../format/estate'
import { splitRef } from '../format/ref'
import { isMapSection, MAP_SECTIONS, type MapSection } from '../format/schema/document'
import { eachReference } from '../format/validate/references'
import type { Model } from '../model/model'
import { askedTagsOf, onlyCarriers } from './asked-tags'

/** What is compared as a whole, with all that belongs to it. */
export type UnitSection = 'networks' | 'subnets'

/**
 * What belongs to which unit, and what is said of an object in place of its name: its form. Objects
 * of two units that have one form are the same part of either.
 */
export interface Belonging {
  /** The unit that something belongs to, by `section/id`, or by `tag key` or `tag key=value`. */
  readonly unitOf: ReadonlyMap<string, number>
  /** The form of an object that is there, by `section/id`. */
  readonly formOf: ReadonlyMap<string, string>
  /** The units that a peering joins, by `peerings/id`; −1 for none. */
  readonly joins: ReadonlyMap<string, readonly [number, number]>
  /** What a unit is to others, by its number: what it has of which section, roughly. */
  readonly kinds: readonly string[]
  readonly ranges: readonly (readonly Prefix[])[]
  /** Whose range an address is in. */
  readonly space: PrefixTable<number>
  /** The units of public addresses, as they are written. */
  readonly publicAddresses: ReadonlyMap<string, number>
  /** The tags that something in the estate asks for, as `key` or `key=value`. */
  readonly askedTags: ReadonlySet<string>
}

/** What belongs to each network, or to each subnet. Costs a pass over the objects of the estate. */
export function belongingOf(model: Model, section: UnitSection): Belonging {
  const { estate } = model
  const users = usersOf(estate)
  const unitOf = unitsOf(model, section, users)
  const askedTags = askedTagsOf(estate)
  for (const [tag, unit] of onlyCarriers(estate, askedTags, unitOf)) unitOf.set(tag, unit)
  const ranges = model[section].map((unit) => ('allRanges' in unit ? unit.allRanges : unit.ranges))
  const entries = ranges.flatMap((own, unit) => own.map((prefix) => ({ prefix, value: unit })))
  return {
    unitOf,
    formOf: formsOf(estate, users),
    joins: joinsOf(estate, unitOf),
    kinds: kindsOf(model, section, unitOf),
    ranges,
    space: prefixTable(entries),
    publicAddresses: publicAddressesOf(estate, unitOf),
    askedTags,
  }
}

function joinsOf(
  { peerings }: Estate,
  unitOf: ReadonlyMap<string, number>,
): Map<string, readonly [number, number]> {
  const unit = (network: string): number => unitOf.get(`networks/${network}`) ?? -1
  return new Map(
    [...peerings].map(([id, { a, b }]) => [`peerings/${id}`, [unit(a.network), unit(b.network)]]),
  )
}

type Users = ReadonlyMap<string, readonly string[]>

/** Who uses each route table and rule set. */
function usersOf(estate: Estate): Users {
  const users = new Map<string, string[]>()
  eachReference(estate, (from, to) => {
    if (!/^(routeTables|ruleSets)\//.test(to) || /^(groups|expectations|ruleSets)\//.test(from))
      return
    const known = users.get(to)
    if (known) known.push(from)
    else users.set(to, [from])
  })
  return users
}

const ref = (section: MapSection, id: string | undefined): string[] =>
  id === undefined ? [] : [`${section}/${id}`]

/** The objects that an object belongs to the unit of, by section. */
const PARENTS: {
  readonly [S in MapSection]?: (object: EstateObject<S>, users: readonly string[]) => string[]
} = {
  subnets: ({ network }) => ref('networks', network),
  interfaces: ({ subnet }) => ref('subnets', subnet),
  routeTables: ({ network }, users) => [...ref('networks', network), ...users],
  gateways: ({ network }) => ref('networks', network),
  nats: ({ network, placement }) => [
    ...ref('subnets', placement?.subnet),
    ...ref('networks', network),
  ],
  endpoints: ({ network }) => ref('networks', network),
  frontends: ({ network }) => ref('networks', network),
  firewalls: (firewall) => [
    ...ref('networks', firewall.network),
    ...(firewall.style === 'routed' && firewall.network === undefined
      ? Object.values(firewall.interfaces ?? {}).flatMap((id) => ref('interfaces', id))
      : []),
  ],
  ruleSets: (_, users) => [...users],
}

function unitsOf(model: Model, section: UnitSection, users: Users): Map<string, number> {
  const { estate, index } = model
  const units = new Map<string, number>()
  for (const [id, number] of index[section]) units.set(`${section}/${id}`, number)
  const missing = new Set<string>()
  const unitOf = (ref: string): number | undefined => {
    const known = units.get(ref)
    if (known !== undefined || missing.has(ref)) return known
    missing.add(ref)
    const [of, id] = splitRef(ref)
    const object = isMapSection(of) ? estate[of].get(id) : undefined
    const parents = isMapSection(of)
      ? (PARENTS[of] as ((o: unknown, users: readonly string[]) => string[]) | undefined)
      : undefined
    if (!object || !parents) return undefined
    const homes = new Set(parents(object, users.get(ref) ?? []).map(unitOf))
    // A subnet's parts name its network too, which is no unit where subnets are.
    if (section === 'subnets' && of === 'nats') homes.delete(undefined)
    const [home] = homes
    if (homes.size !== 1 || home === undefined) return undefined
    units.set(ref, home)
    return home
  }
  for (const of of Object.keys(PARENTS) as MapSection[])
    for (const id of index[of].keys()) unitOf(`${of}/${id}`)
  return units
}

/** What is said of the objects of a section in place of their names. */
function formsOf(estate: Estate, users: Users): Map<string, string> {
  const zones = new Map<string, number>()
  for (const region of estate.regions.values())
    region.zones?.forEach((zone, at) => zones.set(zone, at))
  const forms = new Map<string, string>()
  const formOf = (ref: string): string => forms.get(ref) ?? ''
  const usedBy = (ref: string): string =>
    [...new Set((users.get(ref) ?? []).map((user) => formOf(user) || splitRef(user)[0]))]
      .sort()
      .join()
  const put = <S extends MapSection>(
    section: S,
    form: (object: EstateObject<S>, ref: string) => string,
  ): void => {
    for (const [id, object] of estate[section] as ReadonlyMap<string, EstateObject<S>>)
      if (object.state !== 'deleted')
        forms.set(`${section}/${id}`, form(object, `${section}/${id}`))
  }
  for (const section of MAP_SECTIONS) put(section, (object) => plainForm(section, object))
  put('subnets', ({ role, zone, ranges }) => {
    const lengths = ranges.map((range) => range.slice(range.indexOf('/')))
    return `subnet ${role} ${zone === undefined ? '' : zones.get(zone)} ${lengths.join()}`
  })
  put('interfaces', ({ subnet }) => `host of ${formOf(`subnets/${subnet}`)}`)
  put('nats', ({ kind, placement }) => `nat ${kind} ${formOf(`subnets/${placement?.subnet}`)}`)
  put('routeTables', (_, ref) => `table of ${usedBy(ref)}`)
  put('ruleSets', (_, ref) => `rules of ${usedBy(ref)}`)
  return forms
}

const plainForm = (section: MapSection, object: object): string =>
  [section, ...['kind', 'style', 'service'].map((key) => (object as never)[key] ?? '')].join(' ')

/** How many of something a unit has, as far as units of one kind have to agree in it. */
const roughly = (count: number): number => Math.min(count, 2)

/** Hosts and rules are left out: units of one kind differ in how many they have. */
const COUNTED = ['subnets', 'routeTables', 'gateways', 'nats', 'firewalls', 'endpoints'] as const

function kindsOf(
  model: Model,
  section: UnitSection,
  unitOf: ReadonlyMap<string, number>,
): string[] {
  const counts = model[section].map(() => COUNTED.map(() => 0))
  for (const [at, of] of COUNTED.entries())
    for (const id of model.index[of].keys()) {
      const unit = unitOf.get(`${of}/${id}`)
      if (unit !== undefined) counts[unit]![at]!++
    }
  return model[section].map((unit, number) => {
    const what = 'behaviour' in unit ? unit.behaviour : `${unit.role} ${unit.ranges[0]?.length}`
    return `${what} ${counts[number]!.map(roughly).join('')}`
  })
}

function publicAddressesOf(
  estate: Estate,
  unitOf: ReadonlyMap<string, number>,
): Map<string, number> {
  const owned = new Map<string, number>()
  const put = (owner: string, addresses: readonly (string | undefined)[] = []): void => {
    const unit = unitOf.get(owner)
    if (unit === undefined) return
    for (const address of addresses) if (address !== undefined) owned.set(address, unit)
  }
  for (const [id, { publicAddress }] of estate.interfaces) put(`interfaces/${id}`, [publicAddress])
  for (const [id, { addresses }] of estate.nats) put(`nats/${id}`, addresses)
  for (const [id, { publicAddresses }] of estate.frontends) put(`frontends/${id}`, publicAddresses)
  return owned
}
