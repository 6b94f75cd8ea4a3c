import { RateLimiterPostgres, RateLimiterRes } from 'rate-limiter-flexible'
import { connectionPool } from '../database/client'
import { refusal } from '../http/respond'

/** So many failures within so many seconds, and nobody may try any more for a while. */
const LIMITS = {
  /** For one login from one address: whoever mistypes is let try again soon. */
  login: { points: 8, duration: 15 * 60 },
  /** From one address, for whatever login. */
  address: { points: 60, duration: 15 * 60 },
} as const

type Limit = keyof typeof LIMITS
const limiters = new Map<Limit, RateLimiterPostgres>()

function limiter(limit: Limit): RateLimiterPostgres {
  const known = limiters.get(limit)
  if (known) return known
  const made = new RateLimiterPostgres({
    ...LIMITS[limit],
    storeClient: connectionPool(),
    storeType: 'pool',
    tableName: 'attempts',
    tableCreated: true,
    keyPrefix: limit,
  })
  limiters.set(limit, made)
  return made
}

const keysOf = (login: string, address: string): [Limit, string][] => [
  ['login', `${login} ${address}`],
  ['address', address],
]

/**
 * Refuses an attempt after too many that failed, before it is looked whether it is right. Every
 * attempt counts until it is known to be right, so that many at once are no way round.
 */
export async function countAttempt(login: string, address: string): Promise<void> {
  for (const [limit, key] of keysOf(login, address)) {
    try {
      await limiter(limit).consume(key)
    } catch (error) {
      if (!(error instanceof RateLimiterRes)) throw error
      const seconds = Math.ceil(error.msBeforeNext / 1000)
      throw refusal(
        429,
        'too-many-attempts',
        `there were too many failed attempts; try again in ${Math.ceil(seconds / 60)} min`,
        { seconds },
      )
    }
  }
}

/** An attempt was right: it does not count. */
export async function forgetAttempt(login: string, address: string): Promise<void> {
  const [[own, ownKey], [all, allKey]] = keysOf(login, address) as [
    [Limit, string],
    [Limit, string],
  ]
  await limiter(own).delete(ownKey)
  await limiter(all).reward(allKey)
}

/** Limiters hold the pool of connections, which is made anew with the server. */
export const closeAttempts = (): void => limiters.clear()
