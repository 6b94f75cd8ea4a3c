import {
  compile,
  filesAfter,
  hopMemo,
  proveExpectations,
  shareWith,
  type Expectation,
  type Model,
} from '@salt-trail/core'
import type { Database } from '../database/client'
import { contentOf } from '../estates/content'
import { addRevision, readFiles, RevisionConflict } from '../estates/store'
import { Refused } from '../refused'
import { baseOrRefused, stateAt, type OpenDraft } from './editing'
import { noteSaved, type Connection } from './store'

export interface ToSave {
  readonly slug: string
  readonly author: string
  readonly note: string
  /** Why it is saved although it breaks an expectation that held. */
  readonly reason: string | null
}

export interface Saved {
  readonly slug: string
  readonly number: number
}

/**
 * Saves a draft as the next revision of its estate, whole or not at all. Refused where a newer
 * revision came meanwhile, and where an expectation breaks that held in the base, unless a reason
 * is given: that stays with the revision.
 */
export async function saveDraft(
  db: Database,
  tx: Connection,
  open: OpenDraft,
  { slug, author, note, reason }: ToSave,
): Promise<Saved> {
  const base = baseOrRefused(open)
  const estate = shareWith(base, stateAt(open))
  const broken = brokenBy(compile(base), compile(estate))
  if (broken.length > 0 && reason === null)
    throw new Refused(
      422,
      'breaks-expectations',
      `it breaks ${broken.length} expectation${broken.length === 1 ? '' : 's'} that held: ${broken.map(({ id }) => id).join(', ')}. Say why it is saved all the same`,
      { broken },
    )
  // Who brought the estate in as files finds them again, with what the draft changed in them.
  const brought = await readFiles(db, open.draft.baseId!)
  const files = filesAfter(brought, base, estate) ?? []
  try {
    const saved = await addRevision(db, slug, open.draft.baseNumber, {
      ...{ content: contentOf(estate), files, author, origin: 'draft', note },
      reason: broken.length > 0 ? reason : null,
    })
    if (!saved) throw new Refused(404, 'no-such-estate', `there is no estate "${slug}"`)
    await noteSaved(tx, open.draft.id, saved.number)
    return saved
  } catch (error) {
    if (!(error instanceof RevisionConflict)) throw error
    throw new Refused(
      409,
      'newer-revision',
      `revision ${error.head} was saved meanwhile; put the draft on it first`,
      { head: error.head },
    )
  }
}

/** Expectations that hold before and are broken after, each with what it says then. */
function brokenBy(before: Model, after: Model): { id: string; sentence: string }[] {
  const prove = (model: Model, some: ReadonlyMap<string, Expectation>) =>
    proveExpectations(model, some, hopMemo())
  const broken = prove(after, after.estate.expectations).filter(({ state }) => state === 'broken')
  const known = before.estate.expectations
  const own = new Map(
    broken.flatMap(({ id }) => (known.has(id) ? [[id, known.get(id)!] as const] : [])),
  )
  const held = new Set(
    prove(before, own).flatMap(({ id, state }) => (state === 'holds' ? [id] : [])),
  )
  return broken.filter(({ id }) => held.has(id)).map(({ id, sentence }) => ({ id, sentence }))
}
