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

/** The options of a schema, those within an option too; one without options is its own. */
export const optionsIn = (schema: FieldSchema | undefined): readonly FieldSchema[] =>
  schema === undefined ? [] : schema.anyOf ? schema.anyOf.flatMap(optionsIn) : [schema]
