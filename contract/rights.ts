import type { ROUTES } from './routes'

/**
 * Who may use a route: anybody; whoever has an account, by a token too, or signed in himself; whoever has at least a role for the estate
 * that its path names; those who own the server.
 */
export type Needed =
  'anyone' | 'account' | 'session' | 'reader' | 'editor' | 'owner' | 'server-owner'

export interface Right {
  readonly needs: Needed
  /** Whether it changes something: that is put on record, with who did it. */
  readonly changes: boolean
}

const asks = (needs: Needed): Right => ({ needs, changes: false })
const changes = (needs: Needed): Right => ({ needs, changes: true })

/** Of what a revision of an estate is asked. */
const reads = { get: asks('reader') }

/** The right that each route of the API needs. A route that is left out is an error of types. */
export const RIGHTS: {
  readonly [P in keyof typeof ROUTES]: { readonly [M in keyof (typeof ROUTES)[P]]: Right }
} = {
  '/api/health': { get: asks('anyone') },
  '/api/ready': { get: asks('anyone') },
  '/api/openapi': { get: asks('anyone') },

  '/api/session': { get: asks('anyone'), post: changes('anyone'), delete: changes('session') },
  '/api/session/local': { post: changes('anyone') },
  '/api/invitations/read': { post: asks('anyone') },
  '/api/invitations/use': { post: changes('anyone') },

  '/api/account': { get: asks('session'), put: changes('session') },
  '/api/account/password': { put: changes('session') },
  '/api/account/sessions': { delete: changes('session') },
  '/api/account/sessions/{id}': { delete: changes('session') },
  '/api/account/tokens': { post: changes('session') },
  '/api/account/tokens/{id}': { delete: changes('session') },

  '/api/accounts': { get: asks('server-owner'), post: changes('server-owner') },
  '/api/accounts/{id}': { put: changes('server-owner') },
  '/api/accounts/{id}/link': { post: changes('server-owner') },
  '/api/record': { get: asks('server-owner') },
  '/api/record/table': { get: asks('server-owner') },

  '/api/check': { post: asks('account') },
  '/api/examples': { get: asks('account') },
  '/api/examples/{example}': { get: asks('account') },
  '/api/estates': { get: asks('account'), post: changes('account') },

  '/api/estates/{estate}': { put: changes('editor'), delete: changes('owner') },
  '/api/estates/{estate}/people': { get: asks('owner') },
  '/api/estates/{estate}/people/{login}': { put: changes('owner'), delete: changes('owner') },
  '/api/estates/{estate}/record': { get: asks('owner') },
  '/api/estates/{estate}/revisions': { get: asks('reader'), post: changes('editor') },
  '/api/estates/{estate}/object-history': reads,
  '/api/estates/{estate}/history': reads,
  '/api/estates/{estate}/compare': { post: asks('reader') },
  '/api/estates/{estate}/acceptances/{fingerprint}': {
    put: changes('editor'),
    delete: changes('editor'),
  },

  '/api/estates/{estate}/{revision}/document': reads,
  '/api/estates/{estate}/{revision}/files': reads,
  '/api/estates/{estate}/{revision}/outline': reads,
  '/api/estates/{estate}/{revision}/analysis': {
    get: asks('reader'),
    post: changes('editor'),
    delete: changes('editor'),
  },
  '/api/estates/{estate}/{revision}/exits': reads,
  '/api/estates/{estate}/{revision}/entries': reads,
  '/api/estates/{estate}/{revision}/members': reads,
  '/api/estates/{estate}/{revision}/findings': reads,
  '/api/estates/{estate}/{revision}/difference': reads,
  '/api/estates/{estate}/{revision}/root-causes': reads,
  '/api/estates/{estate}/{revision}/findings-since': reads,
  '/api/estates/{estate}/{revision}/expectations': reads,
  '/api/estates/{estate}/{revision}/hops': reads,
  '/api/estates/{estate}/{revision}/ways-out': reads,
  '/api/estates/{estate}/{revision}/objects': reads,
  '/api/estates/{estate}/{revision}/search': reads,
  '/api/estates/{estate}/{revision}/object': reads,
  '/api/estates/{estate}/{revision}/map': reads,
  '/api/estates/{estate}/{revision}/seen-as': reads,
  '/api/estates/{estate}/{revision}/space': reads,
  '/api/estates/{estate}/{revision}/ways-in': reads,
  '/api/estates/{estate}/{revision}/exposure': reads,
  '/api/estates/{estate}/{revision}/behind': reads,
  '/api/estates/{estate}/{revision}/talks': reads,
  '/api/estates/{estate}/{revision}/prove': { post: asks('reader') },
  '/api/estates/{estate}/{revision}/moves': { post: asks('reader') },
  '/api/estates/{estate}/{revision}/trace': { post: asks('reader') },
  '/api/estates/{estate}/{revision}/traces': { post: asks('reader') },
  '/api/estates/{estate}/{revision}/cases': { post: asks('reader') },
  '/api/estates/{estate}/{revision}/proposals': { post: asks('reader') },

  '/api/estates/{estate}/drafts': { get: asks('reader'), post: changes('editor') },
  '/api/estates/{estate}/drafts/{draft}': {
    get: asks('reader'),
    put: changes('editor'),
    delete: changes('editor'),
  },
  '/api/estates/{estate}/drafts/{draft}/changes': { post: changes('editor') },
  '/api/estates/{estate}/drafts/{draft}/undo': { post: changes('editor') },
  '/api/estates/{estate}/drafts/{draft}/redo': { post: changes('editor') },
  '/api/estates/{estate}/drafts/{draft}/rebase': { post: changes('editor') },
  '/api/estates/{estate}/drafts/{draft}/texts': { put: changes('editor') },
  '/api/estates/{estate}/drafts/{draft}/plan': reads,
  '/api/estates/{estate}/drafts/{draft}/foresight': { post: asks('reader') },
  '/api/estates/{estate}/drafts/{draft}/patch': reads,
  '/api/estates/{estate}/drafts/{draft}/revision': { post: changes('editor') },
}
