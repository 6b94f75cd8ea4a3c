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
    author: 'M. Dune',
    note: 'first',
  })
  expect(answer.status).toBe(201)
  return ((await answer.json()) as { slug: string }).slug
}
