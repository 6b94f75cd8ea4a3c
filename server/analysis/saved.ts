import type { Database } from '../database/client'
import { findRevision } from '../estates/store'
import { log } from '../log'
import { analyseSoon } from './runs'

/** What was just saved is analysed at once; whoever saved it does not wait. */
export async function analyseSaved(
  db: Database,
  { slug, number }: { readonly slug: string; readonly number: number },
): Promise<void> {
  try {
    const saved = await findRevision(db, slug, number)
    if (saved) analyseSoon(db, saved.id)
  } catch (error) {
    // It is saved all the same; whoever looks at it has it analysed then.
    log.warn({ err: error, slug, number }, 'the analysis of a saved revision could not be begun')
  }
}
