import {
  createDocument,
  type ZodOpenApiOperationObject,
  type ZodOpenApiPathsObject,
} from 'zod-openapi'
import { RIGHTS, type Right } from '../../contract/rights'
import { REFUSALS, ROUTES, type Described, type Refusal } from '../../contract/routes'
import { refusalAnswer } from '../../contract/views'

/** Statuses by which a route refuses who may not use it. */
const refusalsOf = ({ needs }: Right): readonly Refusal[] => {
  if (needs === 'anyone') return []
  return ['reader', 'editor', 'owner'].includes(needs) ? [401, 403, 404] : [401, 403]
}

function operation(
  { summary, path, query, body, answer, status = 200, refuses = [] }: Described,
  right: Right,
): ZodOpenApiOperationObject {
  const all = new Set<Refusal>([400, ...refusalsOf(right), ...refuses, 503])
  const refusals = [...all].map((code) => [
    String(code),
    { description: REFUSALS[code], content: { 'application/json': { schema: refusalAnswer } } },
  ])
  return {
    summary,
    ...(right.needs === 'anyone' ? { security: [] } : {}),
    description: `Needs: ${right.needs}.`,
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

type Rights = Readonly<Record<string, Readonly<Record<string, Right>>>>

/** The API as an OpenAPI 3.1 document, made from the schemas that requests are checked with. */
export function openApi(): object {
  const paths: ZodOpenApiPathsObject = {}
  for (const [path, methods] of Object.entries(ROUTES)) {
    paths[path] = Object.fromEntries(
      Object.entries<Described>(methods).map(([method, described]) => [
        method,
        operation(described, (RIGHTS as Rights)[path]![method]!),
      ]),
    )
  }
  return createDocument({
    openapi: '3.1.0',
    info: { title: 'Salt Trail', version: '1' },
    components: {
      securitySchemes: {
        session: { type: 'apiKey', in: 'cookie', name: 'salt-trail' },
        token: { type: 'http', scheme: 'bearer' },
      },
    },
    security: [{ session: [] }, { token: [] }],
    paths,
  })
}
