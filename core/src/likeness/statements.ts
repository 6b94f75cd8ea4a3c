import type { Estate } from '../format/estate'
import { MAP_SECTIONS, type MapSection } from '../format/schema/document'
import type { Model } from '../model/model'
import { askedOf } from './asked-tags'
import type { Belonging } from './belonging'
import { tokensOf, type Labels, type Tokens } from './tokens'

/**
 * One thing that the estate says of a unit: an attribute or an entry of an object that belongs to
 * it, or of one elsewhere that names it.
 */
export interface Statement {
  /** Two units of which the same is said, but for names, have statements of one number. */
  readonly number: number
  /** The object that says it, as `section/id`. */
  readonly object: string
  /** The attribute it stands in. */
  readonly path: string
  readonly value: unknown
  /** How a text in the value reads from the unit, by the key it stands under. */
  readonly seen: (key: string, text: string) => string
  /** Whether the object belongs to the unit. */
  readonly isOwn: boolean
}

export type TellStatement = (unit: number, statement: Statement) => void

/** Attributes that are for people, or say what the belonging says. */
const LEFT_OUT = new Set(['title', 'note', 'tags', 'host'])

/** Sections whose objects say nothing of a unit that others do not. */
const SILENT: ReadonlySet<MapSection> = new Set([
  'regions',
  'publicAddresses',
  'services',
  'plannedRanges',
  'expectations',
])

/** What statements are read with. */
interface Reading {
  readonly belonging: Belonging
  readonly tokens: Tokens
  readonly tell: TellStatement
}

/** An object that is read: its name, the unit it belongs to, and how it is called by others. */
interface Speaker {
  readonly object: string
  readonly unit: number | null
  readonly form: string
  readonly labels: Labels
}

/**
 * Every statement of every unit, or those that the objects of one section say. Costs a pass over the objects of the estate and all they hold, and for
 * an entry that names several units a pass for each.
 */
export function eachStatement(
  model: Model,
  belonging: Belonging,
  tell: TellStatement,
  only: MapSection | null = null,
): void {
  const { estate } = model
  const reading: Reading = { belonging, tokens: tokensOf(belonging), tell }
  for (const section of only === null ? MAP_SECTIONS : [only]) {
    if (SILENT.has(section)) continue
    for (const [id, object] of estate[section] as ReadonlyMap<string, Attributes>) {
      if (object.state === 'deleted') continue
      const ref = `${section}/${id}`
      const unit = belonging.unitOf.get(ref) ?? null
      const form = unit === null ? ref : belonging.formOf.get(ref)!
      const labels = section === 'transits' ? attachmentsOf(estate, id, belonging) : NO_LABELS
      const speaker = { object: ref, unit, form, labels }
      for (const tag of askedOf(belonging.askedTags, object.tags as Record<string, string>))
        tellStatement(reading, speaker, 'tags', 'tag', tag.slice('tag '.length))
      if (section === 'interfaces') readHost(reading, speaker, object)
      else if (section === 'peerings') readPeering(reading, speaker, object)
      else readAttributes(reading, speaker, '', groupKeys(section, object))
    }
  }
  if (only !== null) return
  for (const [at, rule] of estate.estateRules.entries())
    tellStatement(reading, speakerOf(`estateRules/${at}`), 'rule', 'rule', rule)
}

type Attributes = Readonly<Record<string, unknown>>
const NO_LABELS: Labels = new Map()
const speakerOf = (object: string): Speaker => ({
  object,
  unit: null,
  form: object,
  labels: NO_LABELS,
})

/** Members of a group under the key of their section, since that says what they name. */
function groupKeys(section: MapSection, object: Attributes): Attributes {
  if (section !== 'groups') return object
  const { section: of, members, except } = object
  return { section: of, [String(of)]: members, without: except }
}

function attachmentsOf({ transits }: Estate, id: string, { unitOf }: Belonging): Labels {
  const labels = new Map<string, number>()
  for (const [label, { network }] of Object.entries(transits.get(id)?.attachments ?? {})) {
    const unit = unitOf.get(`networks/${network}`)
    if (unit !== undefined) labels.set(label, unit)
  }
  return labels
}

/**
 * A host counts as a whole, without its addresses: how many a unit has, and where, makes it no
 * other.
 */
function readHost(reading: Reading, speaker: Speaker, object: Attributes): void {
  const { addresses, publicAddress, ...others } = object
  const families = (addresses as string[] | undefined)?.map((one) => one.includes(':'))
  const value = { ...others, families: [...new Set(families)].sort(), isPublic: !!publicAddress }
  tellStatement(reading, speaker, '', 'host', value)
}

/** A peering says the same of either side, whichever is written first. */
function readPeering(reading: Reading, speaker: Speaker, object: Attributes): void {
  const { a, b, state } = object as { a: Attributes; b: Attributes; state: unknown }
  const form = { ...speaker, form: 'peering' }
  const { unitOf } = reading.belonging
  for (const [own, other] of [
    [a, b],
    [b, a],
  ] as const) {
    const unit = unitOf.get(`networks/${own.network as string}`)
    if (unit !== undefined) tellOf(reading, form, unit, 'sides', 'sides', { own, other, state })
  }
}

/** Each attribute is a statement; of lists and maps each entry. */
function readAttributes(
  reading: Reading,
  speaker: Speaker,
  path: string,
  attributes: Attributes,
): void {
  for (const [key, value] of Object.entries(attributes)) {
    if (LEFT_OUT.has(key) || value === undefined) continue
    const place = path === '' ? key : `${path}.${key}`
    if (Array.isArray(value))
      for (const one of value) tellStatement(reading, speaker, place, key, one)
    else if (typeof value !== 'object' || value === null)
      tellStatement(reading, speaker, place, key, value)
    else if (LABELLED.has(key))
      for (const [label, one] of Object.entries(value))
        if (key === 'tables') readAttributes(reading, speaker, `${place}.${label}`, one as never)
        else tellStatement(reading, speaker, place, key, one)
    else readAttributes(reading, speaker, place, value as Attributes)
  }
}

/** Maps from a label to an entry. */
const LABELLED = new Set(['attachments', 'tables', 'endpoints', 'interfaces', 'records'])

/** Tells a statement to the unit of its object, and to each unit that it names. */
function tellStatement(
  reading: Reading,
  speaker: Speaker,
  path: string,
  key: string,
  value: unknown,
): void {
  if (speaker.unit !== null) tellOf(reading, speaker, speaker.unit, path, key, value)
  const named = new Set<number>()
  collectUnits(reading.tokens, speaker.labels, key, value, named)
  // What an entry that names very many says to each is that it is one of them: the whole of it would
  // be read once for each.
  const said = named.size > MOST_NAMED ? true : value
  for (const unit of named)
    if (unit !== speaker.unit) tellOf(reading, speaker, unit, path, key, said)
}

/** An entry that names more units than these is told to them without its text. */
const MOST_NAMED = 64

function tellOf(
  { belonging, tokens, tell }: Reading,
  { object, unit, form, labels }: Speaker,
  told: number,
  path: string,
  key: string,
  value: unknown,
): void {
  const isOwn = unit === told
  const who = isOwn ? 'own ' : unit === null ? '' : `${belonging.kinds[unit]} `
  const text = `${who}${form} ${path} ${valueText(tokens, labels, key, value, told)}`
  const seen: Statement['seen'] = (inner, one) => tokens.of(inner, one, labels, told)
  tell(told, { number: numberOf(text), object, path, value, seen, isOwn })
}

function collectUnits(
  tokens: Tokens,
  labels: Labels,
  key: string,
  value: unknown,
  into: Set<number>,
): void {
  if (typeof value === 'string') {
    const unit = tokens.unitNamed(key, value, labels)
    if (unit !== null) into.add(unit)
  } else if (Array.isArray(value))
    for (const one of value) collectUnits(tokens, labels, key, one, into)
  else if (typeof value === 'object' && value !== null)
    for (const [inner, one] of Object.entries(value))
      if (!LEFT_OUT.has(inner)) collectUnits(tokens, labels, inner, one, into)
}

function valueText(
  tokens: Tokens,
  labels: Labels,
  key: string,
  value: unknown,
  unit: number,
): string {
  if (typeof value === 'string') return tokens.of(key, value, labels, unit)
  if (typeof value !== 'object' || value === null) return String(value)
  if (Array.isArray(value)) {
    const texts = value.map((one) => valueText(tokens, labels, key, one, unit))
    return `[${[...new Set(texts)].sort().join()}]`
  }
  let text = ''
  for (const [inner, one] of Object.entries(value))
    if (!LEFT_OUT.has(inner) && one !== undefined)
      text += `${inner}=${valueText(tokens, labels, inner, one, unit)} `
  return `{${text}}`
}

/** A number for a text: two halves of FNV-1a over 32 bits, as 48 bits. */
function numberOf(text: string): number {
  let [low, high] = [0x811c9dc5, 0x050c5d1f]
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at)
    low = Math.imul(low ^ code, 0x01000193)
    high = Math.imul(high ^ code, 0x01000197)
  }
  return (high >>> 16) * 2 ** 32 + (low >>> 0)
}
