import type { ROUTES } from '../../contract/routes'
import { base, create, estateText, files, json, post } from './requests'

type Routes = typeof ROUTES
interface Asked {
  readonly path?: Readonly<Record<string, string>>
  readonly query?: string
  readonly body?: unknown
}

const question = { from: 'interface:banner-1', to: 'internet', protocol: 'tcp', port: 443 }
const demo = { estate: 'halite-ferries', revision: 'head' }
const fingerprint = '0123456789abcdef'

/** One request for each route there is: a route that is left out is a type error. */
const REQUESTS: {
  readonly [P in keyof Routes]: { readonly [M in keyof Routes[P]]: Asked }
} = {
  '/api/check': { post: { body: { files: files(estateText('Checked')) } } },
  '/api/estates': {
    get: {},
    post: { body: { files: files(estateText('Answered by schema')), author: 'M. Dune' } },
  },
  '/api/estates/{estate}': {
    put: { path: { estate: 'spare' }, body: { name: 'Spared', author: 'M. Dune' } },
    delete: { path: { estate: 'spare' }, body: { name: 'Spare' } },
  },
  '/api/estates/{estate}/revisions': {
    get: {},
    post: { body: { files: files(estateText('Again')), author: 'M. Dune', base: 1 } },
  },
  '/api/estates/{estate}/object-history': { get: { query: 'ref=subnets/2' } },
  '/api/estates/{estate}/history': { get: {} },
  '/api/estates/{estate}/compare': { post: { body: { files: files(estateText('Compared')) } } },
  '/api/estates/{estate}/acceptances/{fingerprint}': {
    put: { path: { fingerprint }, body: { reason: 'known', author: 'M. Dune' } },
    delete: { path: { fingerprint } },
  },
  '/api/estates/{estate}/{revision}/document': { get: { query: 'notation=json' } },
  '/api/estates/{estate}/{revision}/files': { get: {} },
  '/api/estates/{estate}/{revision}/outline': { get: { path: demo } },
  '/api/estates/{estate}/{revision}/analysis': {
    get: { path: demo },
    post: { body: {} },
    delete: {},
  },
  '/api/estates/{estate}/{revision}/exits': { get: { path: demo } },
  '/api/estates/{estate}/{revision}/entries': {
    get: { path: demo, query: 'subnets=ticketing-web-1' },
  },
  '/api/estates/{estate}/{revision}/members': {
    get: { path: demo, query: 'column=sites&subnets=ticketing-web-1' },
  },
  '/api/estates/{estate}/{revision}/findings': { get: { path: demo } },
  '/api/estates/{estate}/{revision}/difference': { get: { path: demo, query: 'since=1' } },
  '/api/estates/{estate}/{revision}/root-causes': { get: { path: demo } },
  '/api/estates/{estate}/{revision}/findings-since': { get: { path: demo, query: 'since=1' } },
  '/api/estates/{estate}/{revision}/expectations': { get: { path: demo } },
  '/api/estates/{estate}/{revision}/prove': {
    post: {
      path: demo,
      body: { text: 'expectations:\n  e: { must: never-reach, from: internet, to: internet }\n' },
    },
  },
  '/api/estates/{estate}/{revision}/hops': { get: { path: demo, query: 'subnet=ticketing-web-1' } },
  '/api/estates/{estate}/{revision}/moves': {
    post: { path: demo, body: { move: 'fail', failing: ['zone:north-1'] } },
  },
  '/api/estates/{estate}/{revision}/ways-out': {
    get: { path: demo, query: 'subnets=ticketing-web-1' },
  },
  '/api/estates/{estate}/{revision}/objects': { get: { path: demo } },
  '/api/estates/{estate}/{revision}/search': { get: { path: demo, query: 'text=203.0.113.44' } },
  '/api/estates/{estate}/{revision}/object': {
    get: { path: demo, query: 'ref=subnets/ticketing-web-1' },
  },
  '/api/estates/{estate}/{revision}/map': { get: { path: demo } },
  '/api/estates/{estate}/{revision}/seen-as': { get: { path: demo, query: 'to=internet' } },
  '/api/estates/{estate}/{revision}/space': { get: { path: demo } },
  '/api/estates/{estate}/{revision}/ways-in': {
    get: { path: demo, query: 'subnet=ticketing-web-1' },
  },
  '/api/estates/{estate}/{revision}/exposure': {
    get: { path: demo, query: 'sort=subnet&text=22' },
  },
  '/api/estates/{estate}/{revision}/behind': { get: { path: demo, query: 'host=booking-1' } },
  '/api/estates/{estate}/{revision}/talks': { get: { path: demo, query: 'from=crew' } },
  '/api/estates/{estate}/{revision}/trace': { post: { path: demo, body: question } },
  '/api/estates/{estate}/{revision}/proposals': { post: { path: demo, body: question } },
  '/api/estates/{estate}/{revision}/cases': {
    post: {
      path: demo,
      body: {
        from: 'interface:roster-1',
        to: 'internet',
        protocol: 'tcp',
        ports: { from: 400, to: 500 },
      },
    },
  },
  '/api/estates/{estate}/{revision}/traces': { post: { path: demo, body: [question] } },
  '/api/estates/{estate}/drafts': {
    get: {},
    post: { body: { name: 'Another', author: 'M. Dune' } },
  },
  '/api/estates/{estate}/drafts/{draft}': {
    get: {},
    put: { body: { note: 'half done' } },
    delete: { path: { draft: 'another' } },
  },
  '/api/estates/{estate}/drafts/{draft}/changes': {
    post: {
      body: {
        ...{ what: 'note', author: 'M. Dune', seen: 0 },
        patch: [{ op: 'add', path: '/subnets/2/note', value: 'x' }],
      },
    },
  },
  '/api/estates/{estate}/drafts/{draft}/undo': { post: { body: { author: 'M. Dune' } } },
  '/api/estates/{estate}/drafts/{draft}/redo': { post: { body: { author: 'M. Dune' } } },
  '/api/estates/{estate}/drafts/{draft}/rebase': { post: { body: {} } },
  '/api/estates/{estate}/drafts/{draft}/texts': {
    put: { body: { author: 'M. Dune', object: 'subnets/2', text: 'note: y' } },
  },
  '/api/estates/{estate}/drafts/{draft}/plan': { get: {} },
  '/api/estates/{estate}/drafts/{draft}/foresight': { post: { body: {} } },
  '/api/estates/{estate}/drafts/{draft}/patch': { get: {} },
  '/api/estates/{estate}/drafts/{draft}/revision': { post: { body: { author: 'M. Dune' } } },
  '/api/examples': { get: {} },
  '/api/examples/{example}': { get: { path: { example: 'longest-prefix' } } },
  '/api/openapi': { get: {} },
}

let made = ''
let draft = ''
beforeAll(async () => {
  made = await create('Asked for every answer')
  const started = await post(`/api/estates/${made}/drafts`, { name: 'Asked', author: 'M. Dune' })
  draft = String(((await started.json()) as { id: number }).id)
})

const cases = Object.entries(REQUESTS).flatMap(([path, methods]) =>
  Object.entries(methods as Record<string, Asked>).map(
    ([method, asked]) => [method.toUpperCase(), path, asked] as const,
  ),
)

test.each(cases)('%s %s is answered as its schema says', async (method, path, asked) => {
  const parts: Record<string, string> = { estate: made, revision: 'head', draft, ...asked.path }
  if (parts.estate === 'spare') parts.estate = await create('Spare')
  if (parts.draft === 'another') {
    const started = await post(`/api/estates/${made}/drafts`, { name: 'Gone', author: 'M. Dune' })
    parts.draft = String(((await started.json()) as { id: number }).id)
  }
  const filled = path.replaceAll(/\{(\w+)\}/g, (_, name: string) => parts[name]!)
  // The answer is parsed where it is fetched.
  const answer = await fetch(`${base}${filled}${asked.query ? `?${asked.query}` : ''}`, {
    method,
    ...(asked.body === undefined ? {} : { headers: json, body: JSON.stringify(asked.body) }),
  })
  expect([filled, answer.status, answer.ok ? '' : await answer.text()]).toEqual([
    filled,
    expect.any(Number),
    '',
  ])
})
