import { ROUTES, type Described } from '../../contract/routes'

/** The session that a test asks by, for each server, unless it says otherwise. */
const cookies = new Map([
  [process.env.SALT_TRAIL_TEST_ADDRESS!, process.env.SALT_TRAIL_TEST_COOKIE!],
])
export const askBy = (address: string, cookie: string): unknown => cookies.set(address, cookie)

/**
 * Has every answer of the API that a test gets parsed with the schema of its route: an answer with
 * a missing, another or an undescribed part fails the test that asked for it.
 */
const send = globalThis.fetch
globalThis.fetch = async (input, init) => {
  const url = new URL(input instanceof Request ? input.url : input)
  const headers = new Headers(init?.headers)
  const cookie = cookies.get(url.origin)
  if (cookie !== undefined && !headers.has('cookie') && !headers.has('authorization'))
    headers.set('cookie', cookie)
  const answer = await send(input, { ...init, headers })
  const method = (init?.method ?? 'GET').toLowerCase()
  const schema = answer.ok ? schemaOf(method, url.pathname) : undefined
  if (schema && answer.headers.get('content-type')?.includes('json')) {
    const body: unknown = await answer.clone().json()
    expect([`${method} ${url.pathname}`, body]).toEqual([
      `${method} ${url.pathname}`,
      schema.parse(body),
    ])
  }
  return answer
}

const PATTERNS = Object.entries<Partial<Record<string, Described>>>(ROUTES).map(
  ([path, methods]) => ({
    pattern: new RegExp(`^${path.replaceAll(/\{\w+\}/g, '[^/]+')}$`),
    parts: path.split('{').length,
    methods,
  }),
)

/** The schema of the route with the fewest parameters that a path fits. */
const schemaOf = (method: string, path: string): Described['answer'] | undefined =>
  PATTERNS.filter(({ pattern, methods }) => pattern.test(path) && methods[method]).sort(
    (a, b) => a.parts - b.parts,
  )[0]?.methods[method]?.answer
