import type { H3Event } from 'h3'
import { database, type Database } from '../database/client'
import { findRevision } from '../estates/store'
import { params, refusal } from './respond'
import { revisionParams } from '../../contract/requests'

/** The revision an address names, or a refusal that says what is missing. */
export async function revisionOf(
  event: H3Event,
): Promise<{ db: Database; slug: string; id: number; number: number }> {
  const { estate, revision } = params(event, revisionParams)
  const db = database()
  const found = await findRevision(db, estate, revision === 'head' ? null : Number(revision))
  if (!found)
    throw refusal(
      404,
      'no-such-revision',
      revision === 'head'
        ? `there is no estate "${estate}"`
        : `there is no revision ${revision} of an estate "${estate}"`,
    )
  return { db, slug: estate, ...found }
}

/** Another revision of the same estate, or a refusal. */
export async function earlierRevision(
  db: Database,
  slug: string,
  number: number,
): Promise<{ id: number; number: number }> {
  const found = await findRevision(db, slug, number)
  if (!found)
    throw refusal(404, 'no-such-revision', `there is no revision ${number} of an estate "${slug}"`)
  return found
}
