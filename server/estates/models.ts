import { LRUCache } from 'lru-cache'
import { compile, hopMemo, type HopMemo, type Model } from '@salt-trail/core'
import type { Database } from '../database/client'
import { readRevision } from './store'

/** The compiled estate of a revision, with what was found of its next hops, kept while it is in use. Revisions never change, so neither does this. */
export interface HeldModel {
  readonly model: Model
  readonly memo: HopMemo
}

const held = new LRUCache<number, Promise<HeldModel>>({ max: 8 })

/** The model of a revision. Requests for the same revision share one reading of it. */
export function modelOf(db: Database, revisionId: number): Promise<HeldModel> {
  const known = held.get(revisionId)
  if (known) return known
  const made = readRevision(db, revisionId).then((estate): HeldModel => ({ model: compile(estate), memo: hopMemo() }))
  // A failure is not kept: the database may be back for the next request.
  made.catch(() => held.delete(revisionId))
  held.set(revisionId, made)
  return made
}
