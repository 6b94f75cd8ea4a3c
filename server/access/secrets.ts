import { createHash, randomBytes } from 'node:crypto'
import { eq } from 'drizzle-orm'
import type { Database } from '../database/client'
import { serverSecrets } from '../database/access-schema'

/** A secret that is told once, such as that of a session, a token or a link: 256 bits. */
export const newSecret = (): string => randomBytes(32).toString('base64url')

/**
 * What is kept of a secret. It is random and long, so a plain hash is enough; passwords, which are
 * neither, are hashed otherwise.
 */
export const hashOf = (secret: string): string => createHash('sha256').update(secret).digest('hex')

const known = new Map<string, string>()

/** A secret of the server's own, the same for all servers of one database; made on first use. */
export async function serverSecret(db: Database, name: string): Promise<string> {
  const held = known.get(name)
  if (held !== undefined) return held
  await db.insert(serverSecrets).values({ name, secret: newSecret() }).onConflictDoNothing()
  const [row] = await db.select().from(serverSecrets).where(eq(serverSecrets.name, name))
  known.set(name, row!.secret)
  return row!.secret
}
