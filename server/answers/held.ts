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

/** The model of a revision. A failure is not kept: the database may be back for the next one. */
export async function heldModel(
  revisionId: number,
  read: () => Promise<ReadRevision>,
): Promise<HeldModel> {
  const known = held.get(revisionId)
  if (known) return known
  const { document, estate } = await read()
  const one = { model: compile(estate), memo: hopMemo(), text: document }
  held.set(revisionId, one)
  return one
}

/** The revisions whose models are held. */
export const heldRevisions = (): number[] => [...held.keys()]
