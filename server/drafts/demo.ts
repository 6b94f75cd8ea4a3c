import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import {
  apply,
  complete,
  isValid,
  outageOf,
  readChange,
  type Change,
  type Estate,
} from '@salt-trail/core'
import { parse } from 'yaml'
import { z } from 'zod'
import type { Database } from '../database/client'
import { findRevision, readRevision } from '../estates/store'
import { folderOf } from '../files'
import { addEntry, createDraft, describeDraft, keepText } from './store'

const drafts = z.array(
  z.strictObject({
    name: z.string(),
    author: z.string(),
    note: z.string(),
    kind: z.enum(['change', 'outage']),
    pinned: z.array(z.strictObject({ from: z.string(), to: z.string(), over: z.string() })),
    changes: z.array(z.strictObject({ what: z.string(), patch: z.array(z.unknown()) })).default([]),
    texts: z.array(z.strictObject({ object: z.string(), text: z.string() })).default([]),
    /** What an outage takes down. */
    fails: z.array(z.string()).default([]),
  }),
)

/** Starts the drafts that come with the demo, in its newest revision. */
export async function draftDemo(db: Database, slug: string): Promise<void> {
  const file = join(folderOf('demo'), 'drafts/drafts.yaml')
  const { id: base } = (await findRevision(db, slug, null))!
  const { estate } = await readRevision(db, base)
  for (const { changes, texts, fails, pinned, ...draft } of drafts.parse(
    parse(readFileSync(file, 'utf8')),
  )) {
    const id = (await createDraft(db, slug, null, draft))!
    await describeDraft(db, id, { pinned })
    const outage = fails.length === 0 ? null : outageOf(estate, fails)
    const all = outage?.ok ? [{ what: draft.name, patch: outage.change }] : changes
    let now = estate
    for (const [at, { what, patch }] of all.entries()) {
      const { change, after } = madeIn(now, what, patch)
      await addEntry(db, id, { number: at + 1, what, author: draft.author, undoes: null, change })
      now = after
    }
    for (const { object, text } of texts) await keepText(db, id, object, draft.author, text)
  }
}

function madeIn(now: Estate, what: string, patch: unknown): { change: Change; after: Estate } {
  const read = readChange(now, patch)
  const change = read.ok ? complete(now, read.change) : []
  const made = read.ok ? apply(now, change) : read
  if (!made.ok) throw new Error(`a draft of the demo, "${what}": ${made.failure.message}`)
  if (!isValid(made.estate, now))
    throw new Error(`a draft of the demo, "${what}": the estate would be invalid after it`)
  return { change, after: made.estate }
}
