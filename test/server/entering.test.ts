import { base, create, get, json, person, post, put, cookieOf, STRANGER } from './requests'
import { withServer } from './asking'

const PASSWORD = 'a long one for tests'
const JSON_OF = async <T>(answer: Response): Promise<T> => (await answer.json()) as T
type Session = { account: { login: string; name: string; isServerOwner: boolean } | null }
const send = (address: string, method: string, path: string, body: unknown, cookie = '') =>
  fetch(`${address}${path}`, {
    ...{ method, headers: { ...json, cookie }, body: JSON.stringify(body) },
  })
const signIn = (login: string, password: string) =>
  post('/api/session', { login, password }, STRANGER)
const invite = async (login: string, name: string): Promise<string> => {
  const { link } = await JSON_OF<{ link: string }>(await post('/api/accounts', { login, name }))
  return new URL(link).hash.slice(1)
}
const join = (invitation: string, login: string, name: string, password = PASSWORD) =>
  post('/api/invitations/use', { invitation, login, name, password }, STRANGER)

describe('an invitation', () => {
  test('is read, sets a password once, and lets in', async () => {
    const secret = await invite('ida@example.org', 'I. Da')
    expect(
      await JSON_OF(await post('/api/invitations/read', { invitation: secret }, STRANGER)),
    ).toMatchObject({ login: 'ida@example.org', name: 'I. Da' })
    const entered = await join(secret, 'ida@example.org', 'Ida Dune')
    expect(await JSON_OF<Session>(entered)).toMatchObject({
      account: { login: 'ida@example.org', name: 'Ida Dune', isServerOwner: false },
    })
    expect((await join(secret, 'ida@example.org', 'Ida Dune')).status).toBe(404)
    expect((await signIn('IDA@example.org ', PASSWORD)).status).toBe(200)
  })

  test('of several for one account the newest holds, and ends the sessions there were', async () => {
    const had = await person('J. Ib')
    const all = await JSON_OF<{ id: number; login: string }[]>(await get('/api/accounts'))
    const { id } = all.find(({ login }) => login === 'j-ib')!
    const link = async () =>
      new URL(
        (await JSON_OF<{ link: string }>(await post(`/api/accounts/${id}/link`, {}))).link,
      ).hash.slice(1)
    const [first, second] = [await link(), await link()]
    expect((await join(first, 'j-ib', 'J. Ib')).status).toBe(404)
    expect((await join(second, 'j-ib', 'J. Ib', 'another one for tests')).status).toBe(200)
    expect((await get('/api/estates', had)).status).toBe(401)
    expect((await signIn('j-ib', PASSWORD)).status).toBe(422)
    expect((await signIn('j-ib', 'another one for tests')).status).toBe(200)
  })

  test('needs a long password, and a login and a name that nobody has', async () => {
    const secret = await invite('kay', 'K. Ay')
    expect((await join(secret, 'kay', 'K. Ay', 'short')).status).toBe(400)
    expect((await post('/api/accounts', { login: 'kay', name: 'Other' })).status).toBe(409)
    const taken = await post('/api/accounts', { login: 'kay-2', name: 'k. ay' })
    expect([taken.status, (await JSON_OF<{ data: object }>(taken)).data]).toMatchObject([
      409,
      { code: 'taken', message: expect.stringContaining('k. ay') },
    ])
    expect((await join(secret, 'kay', 'K. Ay')).status).toBe(200)
  })
})

describe('signing in', () => {
  test('tells a wrong password, an unknown login and a disabled account the same', async () => {
    await person('L. Ea')
    await person('M. Ute')
    const all = await JSON_OF<{ id: number; login: string }[]>(await get('/api/accounts'))
    const { id } = all.find(({ login }) => login === 'm-ute')!
    expect((await put(`/api/accounts/${id}`, { isDisabled: true })).status).toBe(200)
    const answers = [
      await signIn('l-ea', 'not this one, no'),
      await signIn('nobody-here', PASSWORD),
      await signIn('m-ute', PASSWORD),
    ]
    const told = await Promise.all(answers.map((one) => one.text()))
    expect(answers.map(({ status }) => status)).toEqual([422, 422, 422])
    expect(new Set(told).size).toBe(1)
  })

  test('is refused for a while after too many failures, right or not', async () => {
    await person('N. Oa')
    for (let at = 0; at < 8; at++) expect((await signIn('n-oa', 'wrong')).status).toBe(422)
    const refused = await signIn('n-oa', PASSWORD)
    expect(refused.status).toBe(429)
    expect(await JSON_OF(refused)).toMatchObject({ data: { code: 'too-many-attempts' } })
    // Others at the same address are not held up by it.
    await person('O. Le')
    expect((await signIn('o-le', PASSWORD)).status).toBe(200)
  })

  test('gives a sealed cookie that no script reads and no page elsewhere sends along', async () => {
    await person('P. Ia')
    const answer = await signIn('p-ia', PASSWORD)
    const cookie = answer.headers.getSetCookie().at(-1)!
    expect(cookie).toMatch(/^salt-trail=Fe26\.2\*/)
    expect(cookie).toMatch(/HttpOnly/)
    expect(cookie).toMatch(/SameSite=Strict/)
  })
})

describe('a session', () => {
  test('ends when it is left, wherever its cookie is kept', async () => {
    const headers = await person('Q. Uin')
    expect((await get('/api/estates', headers)).status).toBe(200)
    const left = await fetch(`${base}/api/session`, { method: 'DELETE', headers })
    expect(await JSON_OF<Session>(left)).toMatchObject({ account: null })
    expect((await get('/api/estates', headers)).status).toBe(401)
  })

  test('is listed and ended by its owner, one or all others, and by nobody else', async () => {
    const first = await person('R. Ob')
    const second = { ...json, cookie: cookieOf(await signIn('r-ob', PASSWORD)) }
    const third = { ...json, cookie: cookieOf(await signIn('r-ob', PASSWORD)) }
    type Own = { sessions: { id: number; isThis: boolean }[] }
    const { sessions } = await JSON_OF<Own>(await get('/api/account', second))
    expect([sessions.length, sessions.filter(({ isThis }) => isThis).length]).toEqual([3, 1])
    const end = (id: number | '', headers: Record<string, string>) =>
      fetch(`${base}/api/account/sessions${id === '' ? '' : `/${id}`}`, {
        ...{ method: 'DELETE', headers },
      })
    const own = (await JSON_OF<Own>(await get('/api/account', third))).sessions.find(
      ({ isThis }) => isThis,
    )!
    expect((await end(own.id, await person('S. Am'))).status).toBe(404)
    expect((await end(own.id, second)).status).toBe(200)
    expect((await get('/api/estates', third)).status).toBe(401)
    expect(await JSON_OF(await end('', second))).toEqual({ ended: 1 })
    expect((await get('/api/estates', first)).status).toBe(401)
    expect((await get('/api/estates', second)).status).toBe(200)
  })

  test('ends with a new password, but for the one that sets it', async () => {
    const first = await person('T. Ed')
    const second = { ...json, cookie: cookieOf(await signIn('t-ed', PASSWORD)) }
    const change = (old: string) =>
      put('/api/account/password', { old, password: 'quite another password' }, second)
    expect((await change('not the old one')).status).toBe(422)
    expect(await JSON_OF(await change(PASSWORD))).toEqual({ ended: 1 })
    expect((await get('/api/estates', first)).status).toBe(401)
    expect((await get('/api/estates', second)).status).toBe(200)
  })
})

describe('a token', () => {
  const token = async (headers: Record<string, string>, more: object) => {
    const body = { name: 'pipeline', role: 'reader', days: 1, ...more }
    const made = await JSON_OF<{ token: string; id: number }>(
      await post('/api/account/tokens', body, headers),
    )
    return { id: made.id, headers: { ...json, authorization: `Bearer ${made.token}` } }
  }

  test('may what its scope says, where its account may, and no more', async () => {
    const [one, other] = [await create('Of a token'), await create('Of another')]
    const owner = await person('U. Na', `/api/estates/${one}`, 'owner')
    await person('U. Na', `/api/estates/${other}`, 'editor')
    const reading = await token(owner, { estate: one })
    const editing = await token(owner, { role: 'editor' })
    const rename = (slug: string, headers: Record<string, string>) =>
      put(`/api/estates/${slug}`, { name: 'Renamed' }, headers)
    expect((await get(`/api/estates/${one}/history`, reading.headers)).status).toBe(200)
    expect((await rename(one, reading.headers)).status).toBe(403)
    expect((await get(`/api/estates/${other}/history`, reading.headers)).status).toBe(404)
    expect((await rename(other, editing.headers)).status).toBe(200)
    expect((await get(`/api/estates/${one}/people`, editing.headers)).status).toBe(403)
    // Nothing about accounts is done by a token, nor is an estate begun by one that only reads.
    expect((await get('/api/account', editing.headers)).status).toBe(403)
    const begun = await post('/api/estates', { files: [{ name: 'a', text: 'x' }] }, reading.headers)
    expect(begun.status).toBe(403)
    await person('U. Na', `/api/estates/${other}`, 'reader')
    expect((await rename(other, editing.headers)).status).toBe(403)
  })

  test('ends when it is told to, and with its account', async () => {
    const slug = await create('Of a token that ends')
    const owner = await person('V. Al', `/api/estates/${slug}`, 'reader')
    const [first, second] = [await token(owner, {}), await token(owner, {})]
    const ended = await fetch(`${base}/api/account/tokens/${first.id}`, {
      ...{ method: 'DELETE', headers: owner },
    })
    expect(ended.status).toBe(200)
    expect((await get('/api/estates', first.headers)).status).toBe(401)
    expect((await get('/api/estates', second.headers)).status).toBe(200)
    const all = await JSON_OF<{ id: number; login: string }[]>(await get('/api/accounts'))
    const { id } = all.find(({ login }) => login === 'v-al')!
    await put(`/api/accounts/${id}`, { isDisabled: true })
    expect((await get('/api/estates', second.headers)).status).toBe(401)
    expect((await get('/api/estates', owner)).status).toBe(401)
  })
})

test('roles are given by owners of the estate, and one owner stays', async () => {
  const slug = await create('Of several')
  const path = `/api/estates/${slug}`
  const owner = await person('W. Im', path, 'owner')
  await person('X. Ia')
  const give = (login: string, role: string, headers: Record<string, string>) =>
    put(`${path}/people/${login}`, { role }, headers)
  expect((await give('x-ia', 'editor', owner)).status).toBe(200)
  expect((await give('x-ia', 'owner', await person('X. Ia'))).status).toBe(403)
  expect((await give('nobody-here', 'reader', owner)).status).toBe(404)
  const people = await JSON_OF<object[]>(await get(`${path}/people`, owner))
  expect(people).toMatchObject([
    { login: 'local', role: 'owner' },
    { login: 'w-im', role: 'owner' },
    { login: 'x-ia', role: 'editor' },
  ])
  expect((await give('w-im', 'reader', owner)).status).toBe(200)
  expect((await give('local', 'reader', json)).status).toBe(409)
})

test('what is changed is on record, with who did it, and is searched and exported', async () => {
  const slug = await create('On record')
  const path = `/api/estates/${slug}`
  const editor = await person('Y. Ve', path, 'editor')
  await put(path, { name: 'Renamed for the record' }, editor)
  await put(`${path}/people/y-ve`, { role: 'owner' }, editor)
  await signIn('y-ve', 'wrong, on purpose')
  type Record = { entries: { who: string; what: string; status: number; about: string }[] }
  const { entries } = await JSON_OF<Record>(await get(`/api/record?estate=${slug}`))
  expect(entries.map(({ who, what, status }) => [who, what, status])).toEqual([
    ['Y. Ve (y-ve)', 'put /api/estates/{estate}/people/{login}', 403],
    ['Y. Ve (y-ve)', 'put /api/estates/{estate}', 200],
    ['M. Dune (local)', 'put /api/estates/{estate}/people/{login}', 200],
    ['M. Dune (local)', 'post /api/estates', 201],
  ])
  const failed = await JSON_OF<Record>(await get('/api/record?text=as%20y-ve'))
  expect(failed.entries).toMatchObject([{ what: 'post /api/session', status: 422 }])
  const table = await get(`/api/record/table?estate=${slug}`)
  expect(table.headers.get('content-type')).toContain('text/csv')
  const lines = (await table.text()).trim().split('\n')
  expect([lines.length, lines[0]]).toEqual([5, 'id,at,who,by,what,estate,about,status,request'])
  // Neither a password nor a token is anywhere in it.
  const all = await (await get('/api/record?count=500')).text()
  expect(all).not.toMatch(/wrong, on purpose|a long one for tests|salt-trail-[A-Za-z0-9_-]{20}/)
})

test('one click enters on the machine of the server, until an owner has an account', async () => {
  await withServer({}, async (address) => {
    const click = (headers: object = {}) =>
      fetch(`${address}/api/session/local`, {
        ...{ method: 'POST', headers: { ...json, cookie: '', ...headers }, body: '{}' },
      })
    expect((await click()).status).toBe(200)
    expect((await click({ 'x-forwarded-for': '192.0.2.1' })).status).toBe(403)
    expect((await click({ origin: 'http://elsewhere.example' })).status).toBe(403)
    // The same page by another scheme is another page.
    expect((await click({ origin: address.replace('http:', 'https:') })).status).toBe(403)
    const cookie = cookieOf(await click())
    const invite = async (login: string, isServerOwner: boolean): Promise<Response> => {
      const body = { login, name: login, isServerOwner }
      const made = await send(address, 'POST', '/api/accounts', body, cookie)
      const invitation = new URL((await JSON_OF<{ link: string }>(made)).link).hash.slice(1)
      const taken = { invitation, login, name: login, password: PASSWORD }
      return send(address, 'POST', '/api/invitations/use', taken)
    }
    // Who only reads is no owner: whoever set the server up is not locked out by inviting him.
    expect((await invite('zoe', false)).status).toBe(200)
    expect((await click()).status).toBe(200)
    expect((await invite('yves', true)).status).toBe(200)
    expect((await click()).status).toBe(403)
  })
}, 60_000)

test('the link that is printed while nobody has an account makes the owner, once', async () => {
  await withServer({ SALT_TRAIL_LOCAL_ENTRY: 'no' }, async (address, _server, console) => {
    const invitation = /join#(\S+)/.exec(console())![1]
    const body = { invitation, login: 'first', name: 'First Owner', password: PASSWORD }
    const refused = await send(address, 'POST', '/api/session/local', {})
    expect(refused.status).toBe(403)
    const entered = await send(address, 'POST', '/api/invitations/use', body)
    expect(await JSON_OF<Session>(entered)).toMatchObject({
      account: { login: 'first', isServerOwner: true },
    })
    expect((await send(address, 'POST', '/api/invitations/use', body)).status).toBe(404)
    const all = await fetch(`${address}/api/estates`, {
      headers: { cookie: cookieOf(entered) },
    })
    expect(await JSON_OF<object[]>(all)).toMatchObject([{ slug: 'halite-ferries' }])
  })
}, 60_000)
