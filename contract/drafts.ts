import type { DraftConflict, ForeseenSoFar, Plan } from '@salt-trail/core'
import { z } from 'zod'
import { change, ofCore, text } from './parts'
import { estateParams, note, savedAnswer } from './requests'
import { packetRow, toldPackets } from './consequences'
import { finding } from './findings'

const draftId = z.string().regex(/^[1-9]\d{0,8}$/)
const kind = z.enum(['change', 'outage'])
const pinned = z
  .array(z.object({ from: text.max(300), to: text.max(300), over: text.max(60) }))
  .max(50)
  .meta({ description: 'Questions that are answered again after each change' })
const patch = z
  .array(z.unknown())
  .max(20_000)
  .meta({ description: 'Operations of RFC 6902 on the estate’s document' })

export const draftParams = estateParams.extend({ draft: draftId })

export const newDraftBody = z
  .object({
    name: text.trim().min(1).max(200),
    note,
    kind: kind.default('change'),
    base: z
      .int()
      .min(1)
      .optional()
      .meta({ description: 'A revision’s number; the newest if left out' }),
    change: z.object({ what: text.min(1).max(2000), patch }).optional(),
  })
  .meta({ id: 'NewDraft' })

export const draftWordsBody = z
  .object({
    name: text.trim().min(1).max(200).optional(),
    note,
    pinned: pinned.optional(),
    conflictsRead: z.literal(true).optional(),
  })
  .meta({ id: 'DraftWords' })

export const draftChangeBody = z
  .object({
    what: text.trim().min(1).max(2000),
    seen: z
      .int()
      .min(0)
      .meta({ description: 'The version of the draft that the change is made in' }),
    patch,
  })
  .meta({ id: 'DraftChange' })

export const undoBody = z
  .object({ entry: z.int().min(1).optional() })
  .meta({ id: 'Undo', description: 'The change to take back; the latest if left out' })

export const draftTextBody = z
  .object({
    object: text.min(1).max(300),
    text: text.max(100_000).nullable().meta({ description: 'Null to forget it' }),
  })
  .meta({ id: 'DraftText', description: 'What somebody is typing and is no change yet' })

export const saveDraftBody = z
  .object({
    note,
    reason: text.trim().min(1).max(2000).optional().meta({
      description: 'Why it is saved although it breaks an expectation that held',
    }),
  })
  .meta({ id: 'SaveDraft' })

const conflict = ofCore<DraftConflict>(
  z.object({
    what: z.string(),
    author: z.string(),
    mine: z.array(change),
    reason: z.string(),
    kept: z.boolean(),
  }),
)

const about = {
  id: z.int(),
  name: z.string(),
  author: z.string(),
  note: z.string(),
  kind,
  base: z.int(),
  baseIsThere: z.boolean(),
  createdAt: z.iso.datetime(),
  changedAt: z.iso.datetime(),
  savedAs: z.int().nullable(),
}
export const draftsAnswer = z
  .array(z.object({ ...about, changes: z.int() }))
  .meta({ id: 'Drafts', description: 'The drafts of an estate, the one changed last first' })

export const draftAnswer = z
  .object({
    ...about,
    version: z.int(),
    first: z.int().meta({ description: 'The version that is the base as it stands' }),
    head: z.int().meta({ description: 'The newest revision' }),
    changes: z.array(
      z.object({
        number: z.int(),
        what: z.string(),
        author: z.string(),
        createdAt: z.iso.datetime(),
        stands: z.boolean(),
        change: z.array(change),
      }),
    ),
    patch: z.array(change).meta({ description: 'All of it as one change, made in the base' }),
    undo: z.int().nullable().meta({ description: 'The change that undoing takes back next' }),
    redo: z.int().nullable(),
    conflicts: z.array(conflict),
    pinned,
    texts: z.array(
      z.object({
        object: z.string(),
        author: z.string(),
        text: z.string(),
        changedAt: z.iso.datetime(),
      }),
    ),
  })
  .meta({ id: 'Draft', description: 'A draft with its changes and what is being typed in it' })

export const editedAnswer = z
  .object({
    version: z.int(),
    warnings: z.array(z.string()),
    conflicts: z
      .array(z.object({ path: z.string(), theirs: z.unknown() }))
      .meta({ description: 'What somebody else wrote there meanwhile; this change came last' }),
  })
  .meta({ id: 'Edited' })

export const foresightBody = z
  .object({
    pending: patch.default([]),
    packets: z.enum(['all', 'later', 'more']).default('all').meta({
      description:
        'Whether packets are compared at once, not yet, or a while longer, until all of them are',
    }),
  })
  .meta({
    id: 'Pending',
    description:
      'What is being edited in the draft and is no change yet, and when packets are wanted',
  })
export const foresightAnswer = ofCore<{
  readonly consequences: ForeseenSoFar
  readonly milliseconds: number
}>(
  z
    .object({
      consequences: z.looseObject({
        packets: toldPackets
          .nullable()
          .meta({ description: 'Null until all of them are compared' }),
        findingsCome: z.array(finding),
        findingsGone: z.array(finding),
        findingsOther: z.array(finding),
      }),
      milliseconds: z.number(),
    })
    .meta({ id: 'Foresight', description: 'What a draft brings about, found on the server' }),
)

export const createdDraftAnswer = z.object({ id: z.int() }).meta({ id: 'CreatedDraft' })
export const savedDraftAnswer = savedAnswer.omit({ warnings: true })

export const planAnswer = ofCore<Plan>(
  z
    .object({
      steps: z.array(
        z.object({
          what: z.string(),
          changes: z.array(change),
          opened: z.array(packetRow),
          cut: z.array(packetRow),
          told: toldPackets,
          gap: z.array(z.string()),
        }),
      ),
      gapless: z.boolean(),
      complete: z.boolean(),
    })
    .meta({ id: 'Plan', description: 'The order in which a draft can be carried out' }),
)
export const patchAnswer = z.array(change).meta({ id: 'Patch', description: 'RFC 6902' })
