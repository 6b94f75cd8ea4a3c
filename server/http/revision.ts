import type { H3Event } from 'h3'
import { database, type Database } from '../database/client'
import { stateOfDraft } from '../drafts/drafts'
import { findRevision } from '../estates/store'
import { params, refusal } from './respond'
import { revisionParams } from '../../contract/requests'

export interface NamedRevision {
  readonly db: Database
  readonly slug: string
  readonly id: number
  /** Its number; of the state of a draft, that of its base. */
  readonly number: number
  /** The draft whose state it is, and the version of it. */
  readonly draft?: { readonly id: number; readonly version: number }
}

/**
 * The revision, or the state of a draft, that an address names; or a refusal that says what is
 * missing.
 */
export async function revisionOf(event: H3Event): Promise<NamedRevision> {
  const { estate, revision } = params(event, revisionParams)
  const db = database()
  const [, draft, version] = /^draft-(\d+)(?:\.(\d+))?$/.exec(revision) ?? []
  const found =
    draft === undefined
      ? await findRevision(db, estate, revision === 'head' ? null : Number(revision))
      : await stateOfDraft(
          db,
          estate,
          Number(draft),
          version === undefined ? null : Number(version),
        )
  if (found) return { db, slug: estate, ...found }
  const missing = draft === undefined ? `revision ${revision}` : `draft ${revision.slice(6)}`
  throw refusal(
    404,
    draft === undefined ? 'no-such-revision' : 'no-such-draft',
    revision === 'head'
      ? `there is no estate "${estate}"`
      : `there is no ${missing} of an estate "${estate}"`,
  )
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
