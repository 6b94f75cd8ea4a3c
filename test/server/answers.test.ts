import { EVERY_ROUTE, filled } from './every-route'
import { base, create, json, post } from './requests'

let made = ''
let draft = ''
beforeAll(async () => {
  made = await create('Asked for every answer')
  const started = await post(`/api/estates/${made}/drafts`, { name: 'Asked' })
  draft = String(((await started.json()) as { id: number }).id)
})

/** Of what is not there, or ends the session that asks; their own tests ask for them. */
const APART = /^\/api\/(session|invitations|accounts\/|account\/)|people\/\{login\}/

test.each(EVERY_ROUTE.filter(([, path]) => !APART.test(path)))(
  '%s %s is answered as its schema says',
  async (method, path, asked) => {
    const parts: Record<string, string> = { estate: made, revision: 'head', draft, ...asked.path }
    if (parts.estate === 'spare') parts.estate = await create('Spare')
    if (parts.draft === 'another') {
      const started = await post(`/api/estates/${made}/drafts`, { name: 'Gone' })
      parts.draft = String(((await started.json()) as { id: number }).id)
    }
    const address = filled(path, parts, asked.query)
    // The answer is parsed where it is fetched.
    const answer = await fetch(`${base}${address}`, {
      method,
      ...(asked.body === undefined ? {} : { headers: json, body: JSON.stringify(asked.body) }),
    })
    expect([address, answer.status, answer.ok ? '' : await answer.text()]).toEqual([
      address,
      expect.any(Number),
      '',
    ])
  },
)
