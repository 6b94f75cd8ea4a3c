import { z } from 'zod'
import { documentSchema, FORMAT } from './schema/document'

/**
 * The format as a JSON Schema (draft 2020-12), made from the schemas the reader itself checks with.
 */
export function estateJsonSchema(id: string): Record<string, unknown> {
  const schema = z.toJSONSchema(documentSchema, { io: 'input', unrepresentable: 'any' }) as Record<
    string,
    unknown
  >
  return { $schema: schema.$schema, $id: id, title: `Salt Trail estate, ${FORMAT}`, ...schema }
}
