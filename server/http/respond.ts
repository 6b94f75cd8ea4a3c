import { createError, getRouterParams, getQuery, readBody, type H3Error, type H3Event } from 'h3'
import type { z } from 'zod'

/** A refusal: a status, a code for programs, a sentence for people. */
export function refusal(
  statusCode: number,
  code: string,
  message: string,
  more: Record<string, unknown> = {},
): H3Error {
  return createError({ statusCode, message, data: { code, message, ...more } })
}

/** A value from a request, checked. */
export function parse<T extends z.ZodType>(schema: T, value: unknown, what: string): z.output<T> {
  const result = schema.safeParse(value)
  if (result.success) return result.data
  const issues = result.error.issues.map((issue) => ({
    path: issue.path.join('.'),
    message: issue.message,
  }))
  const first = issues[0]!
  throw refusal(
    400,
    'bad-request',
    `${what}${first.path ? ` ${first.path}` : ''}: ${first.message}`,
    { issues },
  )
}

export const params = <T extends z.ZodType>(event: H3Event, schema: T): z.output<T> =>
  parse(schema, getRouterParams(event, { decode: true }), 'address')
export const query = <T extends z.ZodType>(event: H3Event, schema: T): z.output<T> =>
  parse(schema, getQuery(event), 'query')

/** The body of a request, checked. Anything that is no JSON is refused as such. */
export async function body<T extends z.ZodType>(event: H3Event, schema: T): Promise<z.output<T>> {
  let value: unknown
  try {
    value = await readBody(event)
    if (typeof value === 'string') value = JSON.parse(value)
  } catch {
    throw refusal(400, 'bad-json', 'the body is no JSON')
  }
  return parse(schema, value, 'body')
}
