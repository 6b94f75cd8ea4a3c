import { spawn } from 'node:child_process'
import { createInterface } from 'node:readline'
import { cookieOf, json } from './requests'
import { withServer } from './asking'

/** A sign-in provider of the test's own, which vouches for whom it is told. */
const provider = spawn(process.execPath, ['test/machine/sign-in-provider.mjs'], {
  stdio: ['pipe', 'pipe', 'inherit'],
})
const lines = createInterface(provider.stdout)[Symbol.asyncIterator]()
let issuer = ''
beforeAll(async () => {
  issuer = (await lines.next()).value as string
})
afterAll(() => provider.stdin.end())
async function vouchFor(claims: object): Promise<void> {
  provider.stdin.write(`${JSON.stringify(claims)}\n`)
  await lines.next()
}

/** The cookies of an answer, as the next request sends them. */
const jar = (answer: Response): string =>
  answer.headers
    .getSetCookie()
    .map((one) => one.split(';')[0])
    .join('; ')
const visit = (url: string, cookie = ''): Promise<Response> =>
  fetch(url, { redirect: 'manual', headers: { cookie } })

/** Goes the way of a browser: to the provider, and back with what it says. */
async function signIn(address: string): Promise<Response> {
  const begun = await visit(`${address}/sign-in/provider?to=/halite-ferries/head/map`)
  const asked = begun.headers.get('location')!
  expect(asked).toMatch(/code_challenge_method=S256/)
  const answered = await visit(asked)
  return visit(answered.headers.get('location')!, jar(begun))
}

const SETTINGS = () => ({
  SALT_TRAIL_PROVIDER: issuer,
  SALT_TRAIL_PROVIDER_CLIENT: 'salt-trail',
  SALT_TRAIL_PROVIDER_SECRET: 'only for tests',
  SALT_TRAIL_PROVIDER_NAME: 'Harbour Sign-in',
})

test('who is invited enters by the provider, and is known there from then on', async () => {
  await withServer(SETTINGS(), async (address) => {
    const session = (await (
      await fetch(`${address}/api/session`, { headers: { cookie: '' } })
    ).json()) as object
    expect(session).toMatchObject({ entries: { provider: 'Harbour Sign-in' } })

    await vouchFor({ sub: 'p-1', email: 'ada@example.org', email_verified: true })
    expect((await signIn(address)).headers.get('location')).toBe('/sign-in?refused=uninvited')

    const invited = await fetch(`${address}/api/accounts`, {
      ...{ method: 'POST', headers: json },
      body: JSON.stringify({ login: 'ada@example.org', name: 'Ada' }),
    })
    expect(invited.status).toBe(201)

    // An address that the provider does not vouch for is nobody's.
    await vouchFor({ sub: 'p-2', email: 'ada@example.org', email_verified: false })
    expect((await signIn(address)).headers.get('location')).toBe('/sign-in?refused=uninvited')

    await vouchFor({ sub: 'p-1', email: 'ada@example.org', email_verified: true })
    const entered = await signIn(address)
    expect(entered.headers.get('location')).toBe('/halite-ferries/head/map')
    const own = await fetch(`${address}/api/session`, { headers: { cookie: cookieOf(entered) } })
    expect(await own.json()).toMatchObject({ account: { login: 'ada@example.org', name: 'Ada' } })

    // The subject is what counts: another one with the same address is somebody else.
    await vouchFor({ sub: 'p-3', email: 'ada@example.org', email_verified: true })
    expect((await signIn(address)).headers.get('location')).toBe('/sign-in?refused=uninvited')
    await vouchFor({ sub: 'p-1', email: 'other@example.org', email_verified: true })
    expect((await signIn(address)).headers.get('location')).toBe('/halite-ferries/head/map')
  })
}, 60_000)

test('an answer that nobody asked for, or that was asked for elsewhere, lets nobody in', async () => {
  await withServer(SETTINGS(), async (address) => {
    await vouchFor({ sub: 'p-1', email: 'ada@example.org', email_verified: true })
    const begun = await visit(`${address}/sign-in/provider?to=//elsewhere.example`)
    const answered = await visit(begun.headers.get('location')!)
    const back = answered.headers.get('location')!
    const REFUSED = '/sign-in?refused=provider'
    expect((await visit(back)).headers.get('location')).toBe(REFUSED)
    const other = await visit(`${address}/sign-in/provider`)
    expect((await visit(back, jar(other))).headers.get('location')).toBe(REFUSED)
    const forged = new URL(back)
    forged.searchParams.set('code', 'forged')
    expect((await visit(forged.href, jar(begun))).headers.get('location')).toMatch(/^\/sign-in\?/)
  })
}, 60_000)
