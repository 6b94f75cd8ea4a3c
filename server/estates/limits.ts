import { config } from '../config'
import { DEFAULT_LIMITS, type Limits } from '@salt-trail/core'

/**
 * What may be brought in: the format's own limits, but for the size where this server is set to
 * take more, or less.
 */
export function limits(): Limits {
  return { ...DEFAULT_LIMITS, bytes: config().SALT_TRAIL_DOCUMENT_MEGABYTES * 2 ** 20 }
}

/**
 * What was saved is read again however large it is: it was within the limits when it was brought
 * in.
 */
export const WITHOUT_LIMITS: Limits = {
  ...DEFAULT_LIMITS,
  bytes: Infinity,
  subnets: Infinity,
  routes: Infinity,
  rules: Infinity,
}
