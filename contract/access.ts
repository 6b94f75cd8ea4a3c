import { z } from 'zod'
import { countUpTo, from, role, text } from './parts'
import { estateParams } from './requests'

/** Fewer characters are guessed too soon; more are no password any more. */
export const LEAST_PASSWORD = 12
const password = text.min(LEAST_PASSWORD).max(500)
const login = text
  .trim()
  .toLowerCase()
  .regex(/^[a-z0-9][a-z0-9._@+-]{0,199}$/, {
    error: 'is a word of letters, digits and . _ @ + -, such as an e-mail address',
  })
const name = text
  .trim()
  .min(1)
  .max(200)
  .meta({ description: 'The name that revisions are signed with' })
const secret = text.min(20).max(200)
const when = z.iso.datetime()

export const account = z
  .object({
    id: z.int(),
    login: z.string(),
    name: z.string(),
    isServerOwner: z.boolean(),
  })
  .meta({ id: 'Account' })

export const sessionAnswer = z
  .object({
    account: account.nullable(),
    /** By what one may enter. */
    entries: z.object({
      password: z.boolean(),
      local: z.boolean().meta({ description: 'One click, on the machine of the server alone' }),
      provider: z.string().nullable().meta({ description: 'The name of a sign-in provider' }),
    }),
  })
  .meta({ id: 'Session', description: 'Who is asking, and how one may enter' })
export const signInBody = z
  .object({ login: text.max(200), password: text.max(500) })
  .meta({ id: 'SignIn' })

export const invitationBody = z.object({ invitation: secret }).meta({ id: 'Invitation' })
export const invitationAnswer = z
  .object({
    login: z.string().nullable().meta({ description: 'Null where it may be chosen' }),
    name: z.string().nullable(),
    endsAt: when,
  })
  .meta({ id: 'InvitationAnswer' })
export const joinBody = z.object({ invitation: secret, login, name, password }).meta({ id: 'Join' })

const listedSession = z.object({
  id: z.int(),
  isThis: z.boolean(),
  createdAt: when,
  seenAt: when,
  endsAt: when,
  agent: z.string(),
})
const listedToken = z.object({
  id: z.int(),
  name: z.string(),
  role,
  estate: z.string().nullable(),
  createdAt: when,
  endsAt: when,
  usedAt: when.nullable(),
})
export const accountAnswer = z
  .object({
    account,
    hasPassword: z.boolean(),
    sessions: z.array(listedSession),
    tokens: z.array(listedToken),
  })
  .meta({ id: 'OwnAccount', description: 'One’s own account, its sessions and tokens' })
export const ownWordsBody = z.object({ name }).meta({ id: 'OwnWords' })
export const passwordBody = z.object({ old: text.max(500), password }).meta({ id: 'NewPassword' })
export const newTokenBody = z
  .object({
    name: text.trim().min(1).max(200),
    role: role.meta({ description: 'The most that it may do, where its account may' }),
    estate: text.max(80).nullable().default(null).meta({ description: 'The one it is for' }),
    days: z.int().min(1).max(366),
  })
  .meta({ id: 'NewToken' })
export const newTokenAnswer = z
  .object({ token: z.string(), ...listedToken.shape })
  .meta({ id: 'NewTokenAnswer', description: 'The token, which is told this once' })
export const endedAnswer = z.object({ ended: z.int() }).meta({ id: 'Ended' })
export const idParams = z.object({ id: z.string().regex(/^[1-9]\d{0,8}$/) })

const listedAccount = z.object({
  ...account.shape,
  createdAt: when,
  seenAt: when.nullable(),
  isDisabled: z.boolean(),
  isLocal: z.boolean().meta({ description: 'Made by one click on the machine of the server' }),
  isInvited: z.boolean().meta({ description: 'Has a link and did not use it yet' }),
})
export const accountsAnswer = z.array(listedAccount).meta({ id: 'Accounts' })
export const newAccountBody = z
  .object({ login, name, isServerOwner: z.boolean().default(false) })
  .meta({ id: 'NewAccount' })
export const linkAnswer = z
  .object({ id: z.int(), link: z.string(), endsAt: when })
  .meta({ id: 'Link', description: 'A link that is used once, to set a password' })
export const accountChangeBody = z
  .object({ isServerOwner: z.boolean().optional(), isDisabled: z.boolean().optional() })
  .meta({ id: 'AccountChange' })

export const peopleAnswer = z
  .array(z.object({ login: z.string(), name: z.string(), role }))
  .meta({ id: 'People', description: 'Who may do what with an estate' })
export const personParams = estateParams.extend({ login: text.min(1).max(200) })
export const roleBody = z.object({ role }).meta({ id: 'RoleOfPerson' })

export const recordQuery = z.object({
  from,
  count: countUpTo(500),
  text: text.max(200).default(''),
  estate: text.max(80).optional(),
  since: z.iso.date().optional(),
  until: z.iso.date().optional(),
})
const recorded = z.object({
  id: z.int(),
  at: when,
  who: z.string(),
  by: z.string().meta({ description: 'session, token NAME, or the server' }),
  what: z.string(),
  estate: z.string().nullable(),
  about: z.string(),
  status: z.int().nullable().meta({ description: 'Null where nobody knows how it ended' }),
  request: z.string(),
})
export const recordAnswer = z
  .object({ total: z.int(), entries: z.array(recorded) })
  .meta({ id: 'AuditRecord', description: 'What was changed, by whom, the newest first' })

export const healthAnswer = z.object({ state: z.literal('up') }).meta({ id: 'Health' })
export const readyAnswer = z.object({ state: z.literal('ready') }).meta({ id: 'Ready' })
