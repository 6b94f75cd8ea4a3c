/** A part of the annotated example: a section of the format with what is said of it. */
export interface TourPart {
  readonly section: string
  readonly says: string
  readonly text: string
}

/** The annotated example, taken apart at its sections: the comment before each says what it is. */
export function tourParts(text: string): TourPart[] {
  const parts: { section: string; says: string[]; lines: string[] }[] = []
  let comment: string[] = []
  for (const line of text.split('\n')) {
    const section = /^([A-Za-z]+):/.exec(line)?.[1]
    if (line.startsWith('#')) comment.push(line.replace(/^#\s?/, ''))
    else if (section) {
      parts.push({ section, says: comment, lines: [line] })
      comment = []
    } else if (line.trim() !== '') parts.at(-1)?.lines.push(line)
  }
  return parts.map(({ section, says, lines }) => ({
    section,
    says: says.join(' '),
    text: lines.join('\n'),
  }))
}

/** One key of an object of the format, as the JSON Schema has it. */
export interface Field {
  readonly key: string
  readonly required: boolean
  readonly type: string
}

interface Schema {
  readonly type?: string
  readonly enum?: readonly unknown[]
  readonly const?: unknown
  readonly anyOf?: readonly Schema[]
  readonly oneOf?: readonly Schema[]
  readonly items?: Schema
  readonly properties?: Readonly<Record<string, Schema>>
  readonly additionalProperties?: Schema | boolean
  readonly required?: readonly string[]
  readonly description?: string
  readonly pattern?: string
  readonly minimum?: number
  readonly maximum?: number
}

const ID = /A-Za-z0-9\._/

/** What a value is, in the few words a table has room for. */
export function typeText(schema: Schema): string {
  if (schema.const !== undefined) return String(schema.const)
  if (schema.enum) return schema.enum.map(String).join(' | ')
  if (schema.anyOf) return [...new Set(schema.anyOf.map(typeText))].join(', or ')
  if (schema.type === 'array') return `list of ${typeText(schema.items ?? {})}`
  if (schema.type === 'object') {
    const keys = Object.keys(schema.properties ?? {})
    if (keys.length > 0) return `{ ${keys.join(', ')} }`
    return typeof schema.additionalProperties === 'object'
      ? `map of ${typeText(schema.additionalProperties)}`
      : 'map'
  }
  if (schema.description)
    return schema.description
      .replace(/^An? /, '')
      .replace(/^[A-Z](?=[a-z])/, (letter) => letter.toLowerCase())
  if (schema.pattern && ID.test(schema.pattern)) return 'id'
  if (schema.type === 'integer' && schema.maximum !== undefined && schema.maximum < 2 ** 53 - 1)
    return `number from ${schema.minimum ?? 0} to ${schema.maximum}`
  return (
    { string: 'text', integer: 'number', number: 'number', boolean: 'true | false' }[
      schema.type ?? ''
    ] ?? 'anything'
  )
}

/** Keys that every object may have are said once, not in each table. */
const COMMON = new Set(['title', 'note', 'tags', 'state'])

/** One kind of object of a section, with the keys it has. */
export interface Kind {
  /** What makes it this kind, such as `style: routed`; empty where a section has one kind. */
  readonly title: string
  readonly fields: readonly Field[]
}

/** The kinds of objects of a section, each with its keys; none for a section of plain values. */
export function kindsOf(document: Schema, section: string): Kind[] {
  const own = document.properties?.[section]
  if (!own) return []
  const entry =
    own.type === 'array'
      ? own.items
      : typeof own.additionalProperties === 'object'
        ? own.additionalProperties
        : own
  if (!entry) return []
  return (entry.oneOf ?? entry.anyOf ?? [entry])
    .map((kind) => ({ title: titleOf(kind), fields: fieldsOf(kind) }))
    .filter(({ fields }) => fields.length > 0)
}

const titleOf = ({ properties = {} }: Schema): string =>
  Object.entries(properties)
    .flatMap(([key, value]) => (value.const === undefined ? [] : [`${key}: ${value.const}`]))
    .join(', ')

function fieldsOf({ properties = {}, required = [] }: Schema): Field[] {
  return Object.entries(properties)
    .filter(([key]) => !COMMON.has(key))
    .map(([key, schema]) => ({
      key,
      required: required.includes(key),
      type: typeText(schema),
    }))
}
