import { readdirSync } from 'node:fs'
import { request } from 'node:http'
import { join, relative } from 'node:path'
import { Validator } from '@seriousme/openapi-schema-validator'
import type { z } from 'zod'
import { ROUTES, type Described } from '../../contract/routes'
import { base, get, post } from './requests'

test('the JSON Schema is published at its own address', async () => {
  const answer = await get('/schemas/salt-trail-1.json')
  expect(await answer.json()).toMatchObject({
    $id: `${base}/schemas/salt-trail-1.json`,
    $schema: expect.stringContaining('2020-12'),
    properties: { format: { const: 'salt-trail/1' } },
  })
})

test('the OpenAPI description knows every route there is, and no other', async () => {
  const { openapi, paths } = (await (await get('/api/openapi')).json()) as {
    openapi: string
    paths: Record<string, object>
  }
  expect(openapi).toMatch(/^3\.1/)
  const folder = join(__dirname, '../../server/api')
  const routes = readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => {
      const path = relative(folder, join(entry.parentPath, entry.name))
      const [, route, method] = /^(.*?)\.(get|post|put|delete)\.ts$/.exec(path)!
      return `${method} /api/${route!
        .replace(/\/?index$/, '')
        .replaceAll('[', '{')
        .replaceAll(']', '}')}`
    })
  const described = Object.entries(paths).flatMap(([path, methods]) =>
    Object.keys(methods).map((method) => `${method} ${path}`),
  )
  expect(described.sort()).toEqual(routes.sort())
})

test('the OpenAPI description is a valid document of OpenAPI 3.1', async () => {
  const document = (await (await get('/api/openapi')).json()) as Record<string, unknown>
  const { valid, errors } = await new Validator().validate(document)
  expect({ valid, errors }).toEqual({ valid: true, errors: undefined })
})

/** Asks under another host name, which a page whose name resolves to this machine would do. */
const askAs = (
  host: string,
  path: string,
  method = 'GET',
): Promise<{ status: number; text: string }> =>
  new Promise((resolve, reject) => {
    const asked = request(`${base}${path}`, { method, headers: { host } }, (answer) => {
      let text = ''
      answer.on('data', (part) => (text += part))
      answer.on('end', () => resolve({ status: answer.statusCode!, text }))
    })
    asked.on('error', reject)
    asked.end()
  })

test.each([
  ['/api/estates', 'GET'],
  ['/api/estates/halite-ferries/head/document', 'GET'],
  ['/', 'GET'],
  ['/schemas/salt-trail-1.json', 'GET'],
  ['/api/estates/halite-ferries/acceptances/0123456789abcdef', 'DELETE'],
])('%s by %s is refused under a host name that is not configured', async (path, method) => {
  const { status, text } = await askAs('rebound.example:7250', path, method)
  expect(status).toBe(421)
  expect(JSON.parse(text)).toMatchObject({ data: { code: 'unknown-host' } })
  expect((await askAs(`localhost:${new URL(base).port}`, '/api/session')).status).toBe(200)
})

test('U+0000 in a text of a request is refused with its place', async () => {
  const question = { from: 'internet', to: 'inter\u0000net', port: 1 }
  const answer = await post('/api/estates/halite-ferries/head/trace', question)
  expect([answer.status, await answer.json()]).toMatchObject([
    400,
    { data: { issues: [{ path: 'to', message: expect.stringContaining('U+0000') }] } },
  ])
  const file = await post('/api/check', {
    files: [{ name: 'a.yaml', text: 'format: salt-trail/1\nname: "a\\0"\n' }],
  })
  expect(await file.json()).toMatchObject({
    errors: [{ code: 'bad-text', file: 'a.yaml', line: 2, column: 7 }],
  })
  expect((await get('/api/estates/halite-ferries/head/seen-as?to=a%00b')).status).toBe(400)
  expect((await get('/api/estates/halite-ferries/head/findings?text=a%00b')).status).toBe(400)
})

test('no text that a request brings may hold U+0000, but for files, which their reader looks at', () => {
  const open: string[] = []
  for (const [route, methods] of Object.entries(ROUTES)) {
    for (const { path, query, body } of Object.values<Described>(methods)) {
      for (const schema of [path, query, body])
        if (schema) textsOf(schema, (at) => open.push(`${route} ${at}`))
    }
  }
  expect([...new Set(open.map((at) => at.slice(at.indexOf(' ') + 1)))].sort()).toEqual([
    'files.text',
    'text',
  ])
})

/** Every text of a schema that takes the character U+0000. */
function textsOf(schema: z.ZodType, report: (at: string) => void, at = ''): void {
  const def = schema._zod.def as unknown as {
    type: string
    shape?: Record<string, z.ZodType>
    options?: z.ZodType[]
  } & Record<string, z.ZodType | undefined>
  const inside = [def.innerType, def.element, def.in, ...(def.options ?? [])].filter(
    (one) => one !== undefined,
  )
  if (def.type === 'string' && schema.safeParse('a\u0000b').success) report(at)
  for (const one of inside) textsOf(one, report, at)
  for (const [key, one] of Object.entries(def.shape ?? {}))
    textsOf(one, report, at === '' ? key : `${at}.${key}`)
}

test('every answer keeps other pages out, and tells no version of what made it', async () => {
  const page = await (await get('/')).text()
  const script = /src="(\/_nuxt\/[^"]+\.js)"/.exec(page)![1]!
  for (const path of ['/', script, '/api/session', '/api/none', '/schemas/salt-trail-1.json']) {
    const { headers } = await get(path)
    const said = [
      ...['cross-origin-embedder-policy', 'cross-origin-opener-policy'],
      ...['cross-origin-resource-policy', 'x-content-type-options', 'x-frame-options'],
    ].map((name) => headers.get(name))
    expect([path, ...said]).toEqual([
      ...[path, 'require-corp', 'same-origin', 'same-origin', 'nosniff', 'DENY'],
    ])
    expect([path, headers.get('content-security-policy')]).toEqual([path, expect.any(String)])
    expect([path, headers.get('x-powered-by'), headers.get('server')]).toEqual([path, null, null])
  }
})

test('the page allows only its own scripts', async () => {
  const answer = await get('/')
  const policy = answer.headers.get('content-security-policy') ?? ''
  expect(policy).toContain("default-src 'self'")
  expect(policy).not.toMatch(/script-src[^;]*unsafe/)
})
