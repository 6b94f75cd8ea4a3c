import type { ROUTES } from '../../contract/routes'
import { estateText, files } from './requests'

type Routes = typeof ROUTES
export interface Asked {
  readonly path?: Readonly<Record<string, string>>
  readonly query?: string
  readonly body?: unknown
}

const question = { from: 'interface:banner-1', to: 'internet', protocol: 'tcp', port: 443 }
const demo = { estate: 'halite-ferries', revision: 'head' }
const fingerprint = '0123456789abcdef'

/** One request for each route there is: a route that is left out is a type error. */
export const REQUESTS: {
  readonly [P in keyof Routes]: { readonly [M in keyof Routes[P]]: Asked }
} = {
  '/api/health': { get: {} },
  '/api/ready': { get: {} },
  '/api/session': {
    get: {},
    post: { body: { login: 'n-body', password: 'a long one for tests' } },
    delete: {},
  },
  '/api/session/local': { post: { body: {} } },
  '/api/invitations/read': { post: { body: { invitation: 'A'.repeat(43) } } },
  '/api/invitations/use': {
    post: {
      body: {
        ...{ invitation: 'A'.repeat(43), login: 'n-body' },
        ...{ name: 'N. Body', password: 'a long one for tests' },
      },
    },
  },
  '/api/account': { get: {}, put: { body: { name: 'M. Dune' } } },
  '/api/account/password': { put: { body: { old: 'none', password: 'a long one for tests' } } },
  '/api/account/sessions': { delete: {} },
  '/api/account/sessions/{id}': { delete: { path: { id: '999999' } } },
  '/api/account/tokens': { post: { body: { name: 'pipeline', role: 'reader', days: 1 } } },
  '/api/account/tokens/{id}': { delete: { path: { id: '999999' } } },
  '/api/accounts': { get: {}, post: { body: { login: 'o-ther', name: 'O. Ther' } } },
  '/api/accounts/{id}': { put: { path: { id: '999999' }, body: {} } },
  '/api/accounts/{id}/link': { post: { path: { id: '999999' }, body: {} } },
  '/api/record': { get: { query: 'text=trace' } },
  '/api/record/table': { get: {} },
  '/api/estates/{estate}/people': { get: {} },
  '/api/estates/{estate}/people/{login}': {
    put: { path: { login: 'nobody' }, body: { role: 'reader' } },
    delete: { path: { login: 'nobody' } },
  },
  '/api/estates/{estate}/record': { get: {} },
  '/api/check': { post: { body: { files: files(estateText('Checked')) } } },
  '/api/estates': {
    get: {},
    post: { body: { files: files(estateText('Answered by schema')) } },
  },
  '/api/estates/{estate}': {
    put: { path: { estate: 'spare' }, body: { name: 'Spared' } },
    delete: { path: { estate: 'spare' }, body: { name: 'Spare' } },
  },
  '/api/estates/{estate}/revisions': {
    get: {},
    post: { body: { files: files(estateText('Again')), base: 1 } },
  },
  '/api/estates/{estate}/object-history': { get: { query: 'ref=subnets/2' } },
  '/api/estates/{estate}/history': { get: {} },
  '/api/estates/{estate}/compare': { post: { body: { files: files(estateText('Compared')) } } },
  '/api/estates/{estate}/acceptances/{fingerprint}': {
    put: { path: { fingerprint }, body: { reason: 'known' } },
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
    post: { body: { name: 'Another' } },
  },
  '/api/estates/{estate}/drafts/{draft}': {
    get: {},
    put: { body: { note: 'half done' } },
    delete: { path: { draft: 'another' } },
  },
  '/api/estates/{estate}/drafts/{draft}/changes': {
    post: {
      body: {
        ...{ what: 'note', seen: 0 },
        patch: [{ op: 'add', path: '/subnets/2/note', value: 'x' }],
      },
    },
  },
  '/api/estates/{estate}/drafts/{draft}/undo': { post: { body: {} } },
  '/api/estates/{estate}/drafts/{draft}/redo': { post: { body: {} } },
  '/api/estates/{estate}/drafts/{draft}/rebase': { post: { body: {} } },
  '/api/estates/{estate}/drafts/{draft}/texts': {
    put: { body: { object: 'subnets/2', text: 'note: y' } },
  },
  '/api/estates/{estate}/drafts/{draft}/plan': { get: {} },
  '/api/estates/{estate}/drafts/{draft}/foresight': { post: { body: {} } },
  '/api/estates/{estate}/drafts/{draft}/patch': { get: {} },
  '/api/estates/{estate}/drafts/{draft}/revision': { post: { body: {} } },
  '/api/examples': { get: {} },
  '/api/examples/{example}': { get: { path: { example: 'longest-prefix' } } },
  '/api/openapi': { get: {} },
}

/** The method, the path and the request of every route. */
export const EVERY_ROUTE = Object.entries(REQUESTS).flatMap(([path, methods]) =>
  Object.entries(methods as Record<string, Asked>).map(
    ([method, asked]) => [method.toUpperCase(), path, asked] as const,
  ),
)

/** An address with the parts of its path filled in. */
export const filled = (path: string, parts: Readonly<Record<string, string>>, query?: string) =>
  `${path.replaceAll(/\{(\w+)\}/g, (_, name: string) => parts[name]!)}${query ? `?${query}` : ''}`
