import { optionsIn, type FieldSchema } from '~/views/draft/field-schema'
import { termSchemaOf, termsText, type TermSchema } from '~/views/draft/terms'

/**
 * How a key of an object is edited in a form: `texts` are words with commas between, `values` words
 * of which some are numbers, `all-or` one of some words or a list, `terms` words and objects of one
 * key, `object`, `list` and `map` have fields of their own.
 */
export type FieldKind =
  | 'choice'
  | 'yes-no'
  | 'number'
  | 'text'
  | 'value'
  | 'id'
  | 'ids'
  | 'texts'
  | 'values'
  | 'all-or'
  | 'terms'
  | 'routes'
  | 'rules'
  | 'object'
  | 'list'
  | 'map'
  | 'text-only'

export interface FormField {
  readonly key: string
  readonly kind: FieldKind
  readonly required: boolean
  /** What can stand there, of a choice or of ids. */
  readonly choices: readonly string[]
  /** The words of `all-or`. */
  readonly words: readonly string[]
  /** What `terms` can be; else null. */
  readonly terms: TermSchema | null
  /** What an object of its own, an entry of a list or of a map is made of. */
  readonly inner: FieldSchema | null
}

type Value = Readonly<Record<string, unknown>>

/** The branch of a schema that an object follows: that of its style. */
export function branchOf(schema: FieldSchema, value: Value): FieldSchema {
  const branches = schema.oneOf ?? schema.anyOf
  if (!branches) return schema
  return branches.find((one) => one.properties?.style?.const === value.style) ?? branches[0]!
}

/** The ids that can stand under a key; null where none are meant. */
export type ChoicesOf = (key: string) => readonly string[] | null

/** The fields of a form, in the order of the format; what a form cannot show is text only. */
export function fieldsFor(schema: FieldSchema, value: Value, choicesOf: ChoicesOf): FormField[] {
  const own = branchOf(schema, value)
  const required = new Set(own.required ?? [])
  return Object.entries(own.properties ?? {})
    .filter(([key, one]) => one.const === undefined && key !== 'tags')
    .map(([key, one]) => {
      const now = value[key]
      const field = fieldFor(key, one, choicesOf(key), { required: required.has(key) })
      return fits(field.kind, now) ? field : { ...field, kind: 'text-only' }
    })
}

const isObject = (value: unknown): value is Value =>
  typeof value === 'object' && value !== null && !Array.isArray(value)
const isListOf = (value: unknown, is: (one: unknown) => boolean): boolean =>
  Array.isArray(value) && value.every(is)
const isWord = (value: unknown): boolean => typeof value !== 'object'

/** Whether a field can show a value: while a text is faulty, anything may stand under a key. */
function fits(kind: FieldKind, value: unknown): boolean {
  if (value === undefined) return true
  switch (kind) {
    case 'routes':
      return isListOf(
        value,
        (one) => isObject(one) && (typeof one.to === 'string' || isObject(one.to)),
      )
    case 'rules':
      return isListOf(
        value,
        (one) =>
          isObject(one) &&
          [one.peers, one.ports].every(
            (list) =>
              list === undefined || isListOf(list, (peer) => isWord(peer) || isObject(peer)),
          ),
      )
    case 'list':
      return isListOf(value, isObject)
    case 'object':
    case 'map':
      return isObject(value)
    case 'ids':
    case 'texts':
    case 'values':
    case 'all-or':
      return isWord(value) || isListOf(value, isWord)
    case 'terms':
      return termsText(value) !== null
    case 'text-only':
      return true
    default:
      return isWord(value)
  }
}

/** One field by its key and schema. */
export function fieldFor(
  key: string,
  schema: FieldSchema,
  ids: readonly string[] | null,
  { required = false }: { readonly required?: boolean } = {},
): FormField {
  const of = (kind: FieldKind, more: Partial<FormField> = {}): FormField => ({
    key,
    kind,
    required,
    choices: [],
    words: [],
    terms: null,
    inner: null,
    ...more,
  })
  const ofTerms = (): FormField | null => {
    const terms = termSchemaOf(schema)
    return terms && of('terms', { terms })
  }
  const list: FormField = ids ? of('ids', { choices: ids }) : of('texts')
  if (key === 'routes' && isMixed(schema.items?.properties?.via)) return of('routes')
  if (key === 'rules' && schema.items?.properties?.direction)
    return of('rules', { inner: schema.items })
  if (schema.enum) return of('choice', { choices: schema.enum.map(String) })
  switch (schema.type) {
    case 'boolean':
      return of('yes-no')
    case 'integer':
    case 'number':
      return of('number')
    case 'string':
      return ids ? of('id', { choices: ids }) : of('text')
    case 'array':
      if (schema.items?.type === 'string') return list
      if (schema.items?.properties) return of('list', { inner: schema.items })
      if (isScalar(schema.items)) return of('values')
      return ofTerms() ?? of('text-only')
    case 'object':
      if (schema.properties) return of('object', { inner: schema })
      return typeof schema.additionalProperties === 'object'
        ? of('map', { inner: schema.additionalProperties, choices: ids ?? [] })
        : of('text-only')
  }
  const options = schema.anyOf ?? []
  const words = options.flatMap((one) => (one.enum ?? [one.const]).filter((word) => word != null))
  const lists = options.filter(({ type, items }) => type === 'array' && items?.type === 'string')
  if (lists.length > 0 && lists.length + options.filter(isWords).length === options.length)
    return { ...list, kind: 'all-or', words: words.map(String) }
  if (lists.length > 0 && options.every((one) => lists.includes(one) || one.type === 'string'))
    return list
  if (isScalar(schema)) return of('value')
  return ofTerms() ?? of('text-only')
}

/** Whether a schema is of words or of objects. */
const isMixed = (schema: FieldSchema | undefined): boolean =>
  optionsIn(schema).some(({ type }) => type === 'string') &&
  optionsIn(schema).some(({ type }) => type === 'object')

const isWords = (schema: FieldSchema): boolean =>
  schema.enum !== undefined || schema.const !== undefined

/** Whether a schema is of words and numbers alone. */
const isScalar = (schema: FieldSchema | undefined): boolean =>
  (schema?.anyOf ?? []).length > 0 &&
  schema!.anyOf!.every(({ type }) => type === 'string' || type === 'integer' || type === 'number')

/** An object with a key set, or without it where the value is empty. */
export function withKey(value: Value, key: string, now: unknown): Value {
  const isEmpty =
    now === '' ||
    now === undefined ||
    (Array.isArray(now) && now.length === 0) ||
    (typeof now === 'object' && now !== null && Object.keys(now).length === 0)
  if (!isEmpty) return { ...value, [key]: now }
  const { [key]: _, ...rest } = value
  return rest
}
