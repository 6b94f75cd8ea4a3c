import { z } from 'zod'
import {
  account,
  accountAnswer,
  accountChangeBody,
  accountsAnswer,
  endedAnswer,
  healthAnswer,
  idParams,
  invitationAnswer,
  invitationBody,
  joinBody,
  linkAnswer,
  newAccountBody,
  newTokenAnswer,
  newTokenBody,
  ownWordsBody,
  passwordBody,
  peopleAnswer,
  personParams,
  readyAnswer,
  recordAnswer,
  recordQuery,
  roleBody,
  sessionAnswer,
  signInBody,
} from './access'
import { estateParams } from './requests'

/** Not JSON: a table as text. */
const recordExport = z.string()

/** The routes of accounts, sessions, tokens, roles and the record of what was changed. */
export const ACCESS_ROUTES = {
  '/api/health': {
    get: { summary: 'Whether the server is up', answer: healthAnswer },
  },
  '/api/ready': {
    get: { summary: 'Whether it can work: the database is there', answer: readyAnswer },
  },
  '/api/session': {
    get: { summary: 'Who is asking, and how one may enter', answer: sessionAnswer },
    post: {
      summary: 'Sign in with a password',
      body: signInBody,
      answer: sessionAnswer,
      refuses: [422, 429],
    },
    delete: { summary: 'Sign out', answer: sessionAnswer },
  },
  '/api/session/local': {
    post: {
      summary: 'Enter by one click, on the machine of the server, until somebody has an account',
      answer: sessionAnswer,
      refuses: [403],
    },
  },
  '/api/invitations/read': {
    post: {
      summary: 'Whom a link invites',
      body: invitationBody,
      answer: invitationAnswer,
      refuses: [404, 429],
    },
  },
  '/api/invitations/use': {
    post: {
      summary: 'Take an invitation: set a password and sign in',
      body: joinBody,
      answer: sessionAnswer,
      refuses: [404, 409, 429],
    },
  },
  '/api/account': {
    get: { summary: 'One’s own account, its sessions and tokens', answer: accountAnswer },
    put: {
      summary: 'Change the name that revisions are signed with',
      body: ownWordsBody,
      answer: account,
      refuses: [409],
    },
  },
  '/api/account/password': {
    put: {
      summary: 'Change one’s password; every other session ends',
      body: passwordBody,
      answer: endedAnswer,
      refuses: [422, 429],
    },
  },
  '/api/account/sessions': {
    delete: { summary: 'End all of one’s sessions but this one', answer: endedAnswer },
  },
  '/api/account/sessions/{id}': {
    delete: {
      summary: 'End a session of one’s own',
      path: idParams,
      answer: endedAnswer,
      refuses: [404],
    },
  },
  '/api/account/tokens': {
    post: {
      summary: 'Make a token for programs; it is told this once',
      body: newTokenBody,
      answer: newTokenAnswer,
      status: 201,
      refuses: [404],
    },
  },
  '/api/account/tokens/{id}': {
    delete: { summary: 'End a token', path: idParams, answer: endedAnswer, refuses: [404] },
  },
  '/api/accounts': {
    get: { summary: 'Everybody who may enter', answer: accountsAnswer },
    post: {
      summary: 'Invite somebody by a link that is used once',
      body: newAccountBody,
      answer: linkAnswer,
      status: 201,
      refuses: [409],
    },
  },
  '/api/accounts/{id}': {
    put: {
      summary: 'Let somebody own the server, or not enter any more',
      path: idParams,
      body: accountChangeBody,
      answer: accountsAnswer,
      refuses: [404, 409],
    },
  },
  '/api/accounts/{id}/link': {
    post: {
      summary: 'A new link to set a password',
      path: idParams,
      answer: linkAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/people': {
    get: {
      summary: 'Who may do what with an estate',
      path: estateParams,
      answer: peopleAnswer,
    },
  },
  '/api/estates/{estate}/people/{login}': {
    put: {
      summary: 'Give somebody a role',
      path: personParams,
      body: roleBody,
      answer: peopleAnswer,
      refuses: [404, 409],
    },
    delete: {
      summary: 'Take somebody’s role away',
      path: personParams,
      answer: peopleAnswer,
      refuses: [404, 409],
    },
  },
  '/api/estates/{estate}/record': {
    get: {
      summary: 'What was changed of an estate, by whom',
      path: estateParams,
      query: recordQuery,
      answer: recordAnswer,
    },
  },
  '/api/record': {
    get: { summary: 'What was changed, by whom', query: recordQuery, answer: recordAnswer },
  },
  '/api/record/table': {
    get: {
      summary: 'The same as a table (RFC 4180)',
      query: recordQuery,
      answer: recordExport,
    },
  },
} as const
