export const base = process.env.SALT_TRAIL_TEST_ADDRESS!
export const json = { 'content-type': 'application/json' }
export const get = (path: string, headers: Record<string, string> = {}) =>
  fetch(`${base}${path}`, { headers })
const sent =
  (method: 'POST' | 'PUT') =>
  (path: string, body: unknown, headers: Record<string, string> = json) =>
    fetch(`${base}${path}`, {
      ...{ method, headers },
      body: typeof body === 'string' ? body : JSON.stringify(body),
    })
export const post = sent('POST')
export const put = sent('PUT')

export const estateText = (name: string, ranges = '[10.1.0.0/16, "2001:db8:1::/56"]'): string =>
  `# kept as written\nformat: salt-trail/1\nname: ${name}\nnetworks:\n  n: { ranges: ${ranges} }\nsubnets:\n  "10": { network: n, ranges: [10.1.1.0/24] }\n  "2": { network: n, ranges: [10.1.2.0/24] }\n`
export const files = (text: string) => [{ name: 'estate.yaml', text }]

/** Starts an estate of one network and says its slug. */
export async function create(name: string): Promise<string> {
  const answer = await post('/api/estates', {
    files: files(estateText(name)),
    note: 'first',
  })
  expect(answer.status).toBe(201)
  return ((await answer.json()) as { slug: string }).slug
}

const PASSWORD = 'a long one for tests'
const people = new Map<string, Record<string, string>>()

/** Somebody with an account of his own, and a role for an estate: the headers he asks with. */
export async function person(
  name: string,
  estate: string | null = null,
  role: 'reader' | 'editor' | 'owner' = 'reader',
): Promise<Record<string, string>> {
  const login = name.toLowerCase().replaceAll(/[^\p{Ll}]+/gu, '-')
  const headers = people.get(name) ?? (await invited(login, name))
  people.set(name, headers)
  if (estate !== null) expect((await put(`${estate}/people/${login}`, { role })).status).toBe(200)
  return headers
}

/** Invites somebody, who takes the link. */
async function invited(login: string, name: string): Promise<Record<string, string>> {
  const { link } = (await (await post('/api/accounts', { login, name })).json()) as { link: string }
  const invitation = new URL(link).hash.slice(1)
  const body = { invitation, login, name, password: PASSWORD }
  const entered = await post('/api/invitations/use', body, STRANGER)
  return { ...json, cookie: cookieOf(entered) }
}

/** The headers of somebody who is not signed in. */
export const STRANGER = { ...json, cookie: '' }

/** The cookie of the session that an answer begins. */
export const cookieOf = (answer: Response): string =>
  answer.headers
    .getSetCookie()
    .map((one) => one.split(';')[0]!)
    .findLast((one) => !one.endsWith('='))!
