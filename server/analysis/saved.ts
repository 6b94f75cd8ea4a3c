import type { Database } from '../database/client'
import { findRevision } from '../estates/store'
import { log } from '../log'
import { analyseSoon } from './runs'

/** A saved revision is analysed at once; the request that saved it does not wait. */
export async function analyseSaved(
  db: Database,
  { slug, number }: { readonly slug: string; readonly number: number },
): Promise<void> {
  try {
    const saved = await findRevision(db, slug, number)
    if (saved) analyseSoon(db, saved.id)
  } catch (error) {
    // It is saved all the same, and analysed when it is looked at.
    log.warn({ err: error, slug, number }, 'the analysis of a saved revision could not be begun')
  }
}
