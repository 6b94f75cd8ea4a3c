import {
  createDocument,
  type ZodOpenApiOperationObject,
  type ZodOpenApiPathsObject,
} from 'zod-openapi'
import { REFUSALS, ROUTES, type Described } from '../../contract/routes'
import { refusalAnswer } from '../../contract/views'

function operation({
  summary,
  path,
  query,
  body,
  answer,
  status = 200,
  refuses = [],
}: Described): ZodOpenApiOperationObject {
  const refusals = [400 as const, ...refuses, 503 as const].map((code) => [
    String(code),
    { description: REFUSALS[code], content: { 'application/json': { schema: refusalAnswer } } },
  ])
  return {
    summary,
    ...(path || query
      ? { requestParams: { ...(path ? { path } : {}), ...(query ? { query } : {}) } }
      : {}),
    ...(body ? { requestBody: { content: { 'application/json': { schema: body } } } } : {}),
    responses: {
      [String(status)]: {
        description: 'The answer',
        content: { 'application/json': { schema: answer } },
      },
      ...Object.fromEntries(refusals),
    },
  }
}

/** The API as an OpenAPI 3.1 document, made from the schemas that requests are checked with. */
export function openApi(): object {
  const paths: ZodOpenApiPathsObject = {}
  for (const [path, methods] of Object.entries(ROUTES)) {
    paths[path] = Object.fromEntries(
      Object.entries<Described>(methods).map(([method, described]) => [
        method,
        operation(described),
      ]),
    )
  }
  return createDocument({ openapi: '3.1.0', info: { title: 'Salt Trail', version: '1' }, paths })
}
