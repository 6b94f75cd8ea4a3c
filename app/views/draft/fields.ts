/** A schema as far as forms and completion need it. */
export interface FieldSchema {
  readonly type?: string
  readonly enum?: readonly unknown[]
  readonly const?: unknown
  readonly anyOf?: readonly FieldSchema[]
  readonly oneOf?: readonly FieldSchema[]
  readonly items?: FieldSchema
  readonly properties?: Readonly<Record<string, FieldSchema>>
  readonly additionalProperties?: FieldSchema | boolean
  readonly required?: readonly string[]
}

/** How a key of an object is edited in a form. */
export type FieldKind =
  | 'choice'
  | 'yes-no'
  | 'number'
  | 'text'
  | 'id'
  | 'ids'
  | 'texts'
  | 'routes'
  | 'rules'
  | 'text-only'

export interface FormField {
  readonly key: string
  readonly kind: FieldKind
  readonly required: boolean
  /** What can stand there, of a choice or of ids. */
  readonly choices: readonly string[]
}

type Value = Readonly<Record<string, unknown>>

/** The branch of a schema that an object follows: that of its style. */
export function branchOf(schema: FieldSchema, value: Value): FieldSchema {
  const branches = schema.oneOf ?? schema.anyOf
  if (!branches) return schema
  return branches.find((one) => one.properties?.style?.const === value.style) ?? branches[0]!
}

/** The fields of a form, in the order of the format; what a form cannot show is text only. */
export function fieldsFor(
  schema: FieldSchema,
  value: Value,
  choicesOf: (key: string) => readonly string[] | null,
): FormField[] {
  const own = branchOf(schema, value)
  const required = new Set(own.required ?? [])
  return Object.entries(own.properties ?? {})
    .filter(([key, one]) => one.const === undefined && key !== 'tags')
    .map(([key, one]) => ({
      key,
      required: required.has(key),
      ...kindOf(key, one, choicesOf(key)),
    }))
}

function kindOf(
  key: string,
  schema: FieldSchema,
  ids: readonly string[] | null,
): Pick<FormField, 'kind' | 'choices'> {
  const of = (kind: FieldKind, choices: readonly string[] = []) => ({ kind, choices })
  if (key === 'routes' && schema.type === 'array') return of('routes')
  if (key === 'rules' && schema.items?.properties?.direction) return of('rules')
  if (schema.enum) return of('choice', schema.enum.map(String))
  if (schema.type === 'boolean') return of('yes-no')
  if (schema.type === 'integer' || schema.type === 'number') return of('number')
  if (schema.type === 'string') return ids ? of('id', ids) : of('text')
  if (schema.type === 'array' && schema.items?.type === 'string')
    return ids ? of('ids', ids) : of('texts')
  return of('text-only')
}

/** An object with a key set, or without it where the value is empty. */
export function withKey(value: Value, key: string, now: unknown): Value {
  const isEmpty = now === '' || now === undefined || (Array.isArray(now) && now.length === 0)
  if (!isEmpty) return { ...value, [key]: now }
  const { [key]: _, ...rest } = value
  return rest
}

/** Words in a text with commas or spaces between. */
export const wordsIn = (text: string): string[] =>
  text.split(/[\s,]+/).filter((word) => word !== '')
