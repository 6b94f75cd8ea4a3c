import { config } from '../config'
import { refusal } from '../http/respond'

/** The address under which people reach the server. */
export function publicAddress(): string {
  const { SALT_TRAIL_ADDRESS } = config()
  if (SALT_TRAIL_ADDRESS !== undefined) return SALT_TRAIL_ADDRESS
  const host = process.env.NITRO_HOST ?? process.env.HOST ?? '127.0.0.1'
  return `http://${host}:${process.env.NITRO_PORT ?? process.env.PORT ?? 3000}`
}

/**
 * The link of an invitation. Its secret stands behind the number sign, so that browsers send it to
 * nobody and no log has it.
 */
export const invitationLink = (secret: string): string => `${publicAddress()}/join#${secret}`

export const NO_INVITATION = () =>
  refusal(
    404,
    'no-invitation',
    'this link was used, has ended, or was replaced by a newer one; ask for another',
  )
