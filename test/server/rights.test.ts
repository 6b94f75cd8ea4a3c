import { readdirSync, readFileSync } from 'node:fs'
import { join, relative } from 'node:path'
import { RIGHTS, type Right } from '../../contract/rights'
import { EVERY_ROUTE, filled, type Asked } from './every-route'
import { base, create, get, json, person, post, STRANGER } from './requests'

type Headers = Readonly<Record<string, string>>
const rightOf = (method: string, path: string): Right =>
  (RIGHTS as Record<string, Record<string, Right>>)[path]![method.toLowerCase()]!

let estate = ''
let parts: Record<string, string> = {}
let reader: Headers = {}
let outsider: Headers = {}
beforeAll(async () => {
  estate = await create('Guarded')
  const path = `/api/estates/${estate}`
  const started = await post(`${path}/drafts`, { name: 'Guarded' })
  const draft = String(((await started.json()) as { id: number }).id)
  parts = { estate, revision: 'head', draft, fingerprint: '0123456789abcdef', id: '1' }
  parts = { ...parts, login: 'r-eader', example: 'longest-prefix' }
  reader = await person('R. Eader', path, 'reader')
  outsider = await person('O. Utsider')
})

const ask = (method: string, path: string, { query, body }: Asked, headers: Headers) =>
  fetch(`${base}${filled(path, parts, query)}`, {
    ...{ method, headers: body === undefined ? { cookie: headers.cookie! } : headers },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  })

const code = async (answer: Response): Promise<string> => {
  const told = (await answer.json()) as { data?: { code?: string } }
  return `${answer.status} ${told.data?.code}`
}

const closed = EVERY_ROUTE.filter(([method, path]) => rightOf(method, path).needs !== 'anyone')

test.each(closed)('%s %s refuses the stranger', async (method, path, asked) => {
  expect(await code(await ask(method, path, asked, STRANGER))).toBe('401 signed-out')
})

test.each(closed)(
  '%s %s refuses a session and a token that are none',
  async (method, path, asked) => {
    const forged = { ...json, cookie: 'salt-trail=Fe26.2**0123456789abcdef**' }
    expect(await code(await ask(method, path, asked, forged))).toBe('401 signed-out')
    const answer = await fetch(`${base}${filled(path, parts, asked.query)}`, {
      ...{ method, headers: { ...json, authorization: 'Bearer salt-trail-none' } },
      ...(asked.body === undefined ? {} : { body: JSON.stringify(asked.body) }),
    })
    expect(await code(answer)).toBe('401 signed-out')
  },
)

const beyondReading = EVERY_ROUTE.filter(([method, path]) =>
  ['editor', 'owner', 'server-owner'].includes(rightOf(method, path).needs),
)

test.each(beyondReading)('%s %s refuses the reader', async (method, path, asked) => {
  expect(await code(await ask(method, path, asked, reader))).toBe('403 not-allowed')
})

const ofEstate = EVERY_ROUTE.filter(([, path]) => path.includes('{estate}'))

test.each(ofEstate)(
  '%s %s tells who has no role not even that it is there',
  async (method, path, asked) => {
    const told = await ask(method, path, asked, outsider)
    expect(told.status).toBe(404)
    const text = await told.text()
    const none = { ...parts, estate: 'not-there' }
    const other = await fetch(`${base}${filled(path, none, asked.query)}`, {
      ...{ method, headers: asked.body === undefined ? { cookie: outsider.cookie! } : outsider },
      ...(asked.body === undefined ? {} : { body: JSON.stringify(asked.body) }),
    })
    expect(text.replaceAll(estate, 'not-there')).toBe(await other.text())
  },
)

const READS = EVERY_ROUTE.filter(
  ([method, path]) => method === 'GET' && rightOf(method, path).needs === 'reader',
)
test.each(READS)(
  '%s %s answers the reader as it answers the owner',
  async (method, path, asked) => {
    const [read, owned] = [
      await ask(method, path, asked, reader),
      await ask(method, path, asked, { ...json, cookie: process.env.SALT_TRAIL_TEST_COOKIE! }),
    ]
    expect(read.status).toBe(owned.status)
    expect((await read.text()).replace('"role":"reader"', '"role":"owner"')).toBe(
      await owned.text(),
    )
  },
)

const withBody = EVERY_ROUTE.filter(([, , { body }]) => body !== undefined)
test.each(withBody)('%s %s refuses a body of another shape', async (method, path, asked) => {
  // Where nothing is taken from a body, none is looked at.
  if (Object.keys(asked.body as object).length === 0) return
  const answer = await ask(
    method,
    path,
    { ...asked, body: 7 },
    {
      ...json,
      cookie: process.env.SALT_TRAIL_TEST_COOKIE!,
    },
  )
  expect(await code(answer)).toBe('400 bad-request')
})

test.each(ofEstate)('%s %s refuses an address that is malformed', async (method, path, asked) => {
  const bad = filled(path, { ...parts, estate: 'A%20b' }, asked.query)
  const answer = await fetch(`${base}${bad}`, {
    ...{ method, headers: json },
    ...(asked.body === undefined ? {} : { body: JSON.stringify(asked.body) }),
  })
  expect(await code(answer)).toBe('400 bad-request')
})

test('every file of a route says which one it is, and goes through the table of rights', () => {
  const folder = join(__dirname, '../../server/api')
  const wrong = readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .filter((entry) => {
      const file = join(entry.parentPath, entry.name)
      const [, at, method] = /^(.*?)\.(get|post|put|delete)\.ts$/.exec(relative(folder, file))!
      const path = `/api/${at!
        .replace(/\/?index$/, '')
        .replaceAll('[', '{')
        .replaceAll(']', '}')}`
      const declared = new RegExp(
        `^export default (openRoute|route)\\(\\s*'${path.replaceAll(/[{}]/g, '\\$&')}',\\s*'${method}',`,
        'm',
      )
      return !declared.test(readFileSync(file, 'utf8'))
    })
  expect(wrong.map(({ name, parentPath }) => join(parentPath, name))).toEqual([])
})

test('the OpenAPI description tells what each route needs, and its refusals', async () => {
  const { paths } = (await (await get('/api/openapi')).json()) as {
    paths: Record<string, Record<string, { description: string; responses: object }>>
  }
  for (const [method, path] of EVERY_ROUTE) {
    const { needs } = rightOf(method, path)
    const { description, responses } = paths[path]![method.toLowerCase()]!
    expect([path, description]).toEqual([path, `Needs: ${needs}.`])
    const refused = needs === 'anyone' ? [] : ['401', '403']
    expect([path, Object.keys(responses)]).toEqual([path, expect.arrayContaining(refused)])
  }
})

test('of estates only those are listed that one has a role for', async () => {
  const listed = async (headers: Headers): Promise<string[]> =>
    ((await (await get('/api/estates', headers)).json()) as { slug: string; role: string }[]).map(
      ({ slug, role }) => `${slug} ${role}`,
    )
  expect(await listed(reader)).toEqual([`${estate} reader`])
  expect(await listed(outsider)).toEqual([])
  expect(await listed({})).toContain('halite-ferries owner')
})

test('a draft or a revision of another estate is not reached by way of one that one may read', async () => {
  const other = await create('Not his')
  const started = await post(`/api/estates/${other}/drafts`, { name: 'Not his either' })
  const { id } = (await started.json()) as { id: number }
  const own = `/api/estates/${estate}`
  for (const path of [
    `${own}/drafts/${id}`,
    `${own}/draft-${id}/document`,
    `${own}/draft-${id}.0/map`,
  ])
    expect([path, (await get(path, reader)).status]).toEqual([path, 404])
  const compared = await get(`${own}/head/difference?since=99`, reader)
  expect(compared.status).toBe(404)
})
