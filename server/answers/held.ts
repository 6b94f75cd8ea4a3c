import { LRUCache } from 'lru-cache'
import { compile, hopMemo, type HopMemo, type Model } from '@salt-trail/core'
import type { ReadRevision } from '../estates/store'

/**
 * The compiled estate of a revision, with what was found of its next hops, kept while it is in use.
 * Revisions never change, so neither does this.
 */
export interface HeldModel {
  readonly model: Model
  readonly memo: HopMemo
  /** The revision's document, as long as its model is in use. */
  readonly text: string
}

/** The most models held at once, and the most characters of their documents together. */
const MOST_MODELS = 8
const MOST_CHARACTERS = 100_000_000

const held = new LRUCache<number, HeldModel>({
  max: MOST_MODELS,
  maxSize: MOST_CHARACTERS,
  sizeCalculation: ({ text }) => Math.min(text.length, MOST_CHARACTERS),
})
const making = new Map<number, Promise<HeldModel>>()

/** The model of a revision. Questions about the same revision share one reading of it. */
export function heldModel(
  revisionId: number,
  read: () => Promise<ReadRevision>,
): Promise<HeldModel> {
  const known = held.get(revisionId)
  if (known) return Promise.resolve(known)
  const under = making.get(revisionId)
  if (under) return under
  const made = read()
    .then(({ document, estate }): HeldModel => {
      const one = { model: compile(estate), memo: hopMemo(), text: document }
      held.set(revisionId, one)
      return one
    })
    // A failure is not kept: the database may be back for the next question.
    .finally(() => making.delete(revisionId))
  making.set(revisionId, made)
  return made
}
