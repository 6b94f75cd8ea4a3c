import {
  bigint,
  bigserial,
  boolean,
  index,
  integer,
  pgTable,
  primaryKey,
  serial,
  text,
  timestamp,
  uniqueIndex,
} from 'drizzle-orm/pg-core'
import { sql } from 'drizzle-orm'
import type { Role } from '../../contract/parts'
import { estates } from './schema'

const moment = () => timestamp({ withTimezone: true })

/** Everybody who may enter. */
export const accounts = pgTable(
  'accounts',
  {
    id: serial().primaryKey(),
    /** What is typed to sign in, in small letters. */
    login: text().notNull().unique(),
    /** What revisions are signed with. */
    name: text().notNull(),
    /** Of Argon2id, with its parameters; null for who enters by another way. */
    passwordHash: text(),
    /** Who it is to a sign-in provider: its address and the subject it names (OpenID Connect). */
    issuer: text(),
    subject: text(),
    isServerOwner: boolean().notNull().default(false),
    isDisabled: boolean().notNull().default(false),
    /** Made by a click on the machine of the server, with neither password nor provider. */
    isLocal: boolean().notNull().default(false),
    createdAt: moment().notNull().defaultNow(),
  },
  (t) => [
    uniqueIndex('accounts_name').on(sql`lower(${t.name})`),
    uniqueIndex('accounts_subject').on(t.issuer, t.subject),
  ],
)

const ofAccount = () =>
  integer()
    .notNull()
    .references(() => accounts.id, { onDelete: 'cascade' })

/** Links that are used once to set a password; of the secret in one only its hash is kept. */
export const invitations = pgTable('invitations', {
  hash: text().primaryKey(),
  /** Null for the first owner of the server, who chooses a login. */
  accountId: integer()
    .unique()
    .references(() => accounts.id, { onDelete: 'cascade' }),
  endsAt: moment().notNull(),
})

export const sessions = pgTable(
  'sessions',
  {
    id: serial().primaryKey(),
    hash: text().notNull().unique(),
    accountId: ofAccount(),
    createdAt: moment().notNull().defaultNow(),
    seenAt: moment().notNull().defaultNow(),
    endsAt: moment().notNull(),
    /** What the browser calls itself. */
    agent: text().notNull(),
  },
  (t) => [index('sessions_account').on(t.accountId)],
)

/** What programs enter by, for one account, with the most that it may do. */
export const tokens = pgTable(
  'tokens',
  {
    id: serial().primaryKey(),
    hash: text().notNull().unique(),
    accountId: ofAccount(),
    name: text().notNull(),
    role: text().$type<Role>().notNull(),
    /** The one estate it is for; null for all that its account may use. */
    estateId: integer().references(() => estates.id, { onDelete: 'cascade' }),
    createdAt: moment().notNull().defaultNow(),
    endsAt: moment().notNull(),
    usedAt: moment(),
  },
  (t) => [index('tokens_account').on(t.accountId)],
)

/** Who may do what with an estate. Who owns the server may do everything with each. */
export const estateRoles = pgTable(
  'estate_roles',
  {
    estateId: integer()
      .notNull()
      .references(() => estates.id, { onDelete: 'cascade' }),
    accountId: ofAccount(),
    role: text().$type<Role>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.estateId, t.accountId] })],
)

/**
 * What was changed, by whom. Written before it is done, so that nothing is done without it; the
 * status is added after. Names stay as they were then, whatever becomes of accounts and estates.
 */
export const record = pgTable(
  'record',
  {
    id: bigserial({ mode: 'number' }).primaryKey(),
    at: moment().notNull().defaultNow(),
    accountId: integer(),
    who: text().notNull(),
    by: text().notNull(),
    /** The method and the route. */
    what: text().notNull(),
    estate: text(),
    about: text().notNull().default(''),
    /** The status of the answer; null until it is known. */
    status: integer(),
    /** The id of the request, as in the log. */
    request: text().notNull(),
  },
  (t) => [index('record_estate').on(t.estate, t.id)],
)

/** Failed attempts to sign in, counted by whom they are for; the package that counts has its form. */
export const attempts = pgTable('attempts', {
  key: text().primaryKey(),
  points: integer().notNull().default(0),
  expire: bigint({ mode: 'number' }),
})

/** Secrets of the server's own, such as the one that seals cookies. Never told, never logged. */
export const serverSecrets = pgTable('server_secrets', {
  name: text().primaryKey(),
  secret: text().notNull(),
})
