import type { H3Event } from 'h3'
import { database, type Database } from '../database/client'
import { findDraft, type DraftInfo } from '../drafts/store'
import { params, refusal } from './respond'
import { draftParams } from '../../contract/drafts'

/** The draft an address names, or a refusal. */
export async function draftOf(
  event: H3Event,
): Promise<{ db: Database; slug: string; draft: DraftInfo }> {
  const { estate, draft: id } = params(event, draftParams)
  const db = database()
  const draft = await findDraft(db, estate, Number(id))
  if (!draft)
    throw refusal(404, 'no-such-draft', `there is no draft ${id} of an estate "${estate}"`)
  return { db, slug: estate, draft }
}

/** What is told of a draft wherever it is listed. */
export const aboutDraft = ({
  id,
  name,
  author,
  note,
  kind,
  baseNumber,
  baseId,
  createdAt,
  changedAt,
  savedAs,
}: DraftInfo) => ({
  ...{ id, name, author, note, kind, base: baseNumber, baseIsThere: baseId !== null },
  ...{ createdAt, changedAt, savedAs },
})
