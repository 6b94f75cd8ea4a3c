import { hash, verify } from '@node-rs/argon2'

/**
 * Argon2id (RFC 9106) with 19 MiB and two passes, as the second recommendation for machines with
 * little memory has it at the time of writing. The hash names its parameters.
 */
const COST = { memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const

export const hashPassword = (password: string): Promise<string> => hash(password, COST)

/** The hash of a password that nobody has: who is unknown takes as long as who is known. */
let nobody: Promise<string> | undefined

/** Whether a password is the one that was hashed; false, and as slowly, where there is no hash. */
export async function isPassword(kept: string | null, password: string): Promise<boolean> {
  nobody ??= hashPassword('nobody has this password')
  const isRight = await verify(kept ?? (await nobody), password)
  return kept !== null && isRight
}
