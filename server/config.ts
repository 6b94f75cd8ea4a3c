import { availableParallelism } from 'node:os'
import { z } from 'zod'

const number = (otherwise: number) =>
  z
    .string()
    .regex(/^[1-9]\d{0,8}$/, { error: 'is no whole number from 1 to 999999999' })
    .transform(Number)
    .default(otherwise)

/** An amount that may be a fraction, such as a thousandth of a second. */
const amount = (otherwise: number, least: { readonly zero: boolean }) =>
  z
    .string()
    .regex(/^\d{1,9}(\.\d{1,6})?$/, { error: 'is no number from 0 to 999999999' })
    .transform(Number)
    .refine((value) => least.zero || value > 0, { error: 'must be above 0' })
    .default(otherwise)

/** The names in a list with commas between, in small letters. */
const names = z
  .string()
  .transform((text) => text.split(',').map((name) => name.trim().toLowerCase()))
  .pipe(
    z.array(z.string().regex(/^[a-z0-9.:[\]-]{1,255}$/, { error: 'holds what is no host name' })),
  )
  .default([])

/** Every setting of the server, by the name of its environment variable. */
const settings = z.object({
  DATABASE_URL: z
    .string({ error: 'is not set; "npm start" starts a private PostgreSQL and sets it' })
    .regex(/^postgres(ql)?:\/\//, { error: 'is no address of a PostgreSQL database' }),
  /** Host names under which the server may be asked, beside the loopback ones. */
  SALT_TRAIL_HOSTS: names,
  /**
   * The address under which people reach the server, where that is not the one it listens on: links
   * begin with it, pages come from it, and cookies are for https alone if it begins so.
   */
  SALT_TRAIL_ADDRESS: z
    .url({ protocol: /^https?$/, error: 'is no address that begins with http:// or https://' })
    .transform((address) => new URL(address).origin)
    .optional(),
  /** A session ends after so many hours, and after so many in which nothing was asked. */
  SALT_TRAIL_SESSION_HOURS: number(14 * 24),
  SALT_TRAIL_IDLE_HOURS: number(24),
  /** Whether one click on the machine of the server enters, until an owner has an account. */
  SALT_TRAIL_LOCAL_ENTRY: z.enum(['yes', 'no'], { error: 'is neither yes nor no' }).default('no'),
  /** A sign-in provider (OpenID Connect): its address, what it knows us by, its name on screen. */
  SALT_TRAIL_PROVIDER: z.url({ error: 'is no address of a sign-in provider' }).optional(),
  SALT_TRAIL_PROVIDER_CLIENT: z.string().optional(),
  SALT_TRAIL_PROVIDER_SECRET: z.string().optional(),
  SALT_TRAIL_PROVIDER_NAME: z.string().default('your sign-in provider'),
  /** Whether the demo is loaded at the first start. */
  SALT_TRAIL_DEMO: z.enum(['yes', 'no'], { error: 'is neither yes nor no' }).default('yes'),
  SALT_TRAIL_LOG: z
    .enum(['fatal', 'error', 'warn', 'info', 'debug', 'trace', 'silent'], {
      error: 'is no level of the log',
    })
    .default('info'),
  /** How large the files of an estate may be. */
  SALT_TRAIL_DOCUMENT_MEGABYTES: number(64),
  /** Memory of one thread that reads files. */
  SALT_TRAIL_READING_MEGABYTES: number(3_072),
  /** Longer than this nobody waits until files are read, those before them in the queue included. */
  SALT_TRAIL_READING_SECONDS: amount(120, { zero: false }),
  /**
   * So many threads answer questions; each may take so much memory, and so long for one answer.
   * Nobody has all of them, so two are the least.
   */
  SALT_TRAIL_ANSWER_THREADS: number(3).refine((threads) => threads > 1, {
    error: 'must be 2 or more, so that one question never holds up all others',
  }),
  SALT_TRAIL_ANSWERS_MEGABYTES: number(6_144),
  SALT_TRAIL_ANSWER_SECONDS: amount(20, { zero: false }),
  /** Memory of the thread that tries proposals, and how long it tries for one question. */
  SALT_TRAIL_PROPOSALS_MEGABYTES: number(4_096),
  SALT_TRAIL_PROPOSALS_SECONDS: amount(120, { zero: false }),
  /** Memory of one thread that edits drafts, saves, plans or foresees. */
  SALT_TRAIL_DRAFTS_MEGABYTES: number(4_096),
  /**
   * Longer than this no edit of a draft runs; what follows from one may take four times as long.
   */
  SALT_TRAIL_EDIT_SECONDS: amount(60, { zero: false }),
  /** How long the order of a plan is searched. */
  SALT_TRAIL_PLAN_SECONDS: amount(60, { zero: false }),
  /** Longer than this no analysis runs, and no share of a large one. */
  SALT_TRAIL_ANALYSIS_SECONDS: amount(900, { zero: false }),
  /** Memory of one analysis, or of one process that finds shares of large ones. */
  SALT_TRAIL_ANALYSIS_MEGABYTES: number(6_144),
  /** Documents from this size on are analysed in shares, by processes; 0 for all of them. */
  SALT_TRAIL_SHARES_FROM_MEGABYTES: amount(48, { zero: true }),
  /** So many processes find shares of large analyses: one for each core but the server's own. */
  SALT_TRAIL_ANALYSIS_PROCESSES: number(Math.max(1, availableParallelism() - 1)),
})

export type Config = z.output<typeof settings>

/**
 * The level of the log, which begins before settings are checked: any other word counts as none.
 */
export const logLevel = (): Config['SALT_TRAIL_LOG'] =>
  settings.shape.SALT_TRAIL_LOG.catch('info').parse(process.env.SALT_TRAIL_LOG)

/** A setting that cannot be used; the message names it. */
export class ConfigError extends Error {}

/** The settings in an environment; a ConfigError names every one that cannot be used. */
export function readConfig(environment: Readonly<Record<string, string | undefined>>): Config {
  const result = settings.safeParse(environment)
  if (result.success) return result.data
  const told = result.error.issues.map(({ path: [name], message }) => {
    const given = environment[String(name)]
    return `${String(name)}${given === undefined ? '' : ` ("${given}")`} ${message}`
  })
  throw new ConfigError(told.join('; '))
}

let known: Config | undefined

/** The settings of this process, read from its environment once. */
export const config = (): Config => (known ??= readConfig(process.env))
