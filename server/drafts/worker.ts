import { LRUCache } from 'lru-cache'
import { eq } from 'drizzle-orm'
import { planOf, shareWith, type Change, type Estate, type Plan } from '@salt-trail/core'
import type { Database } from '../database/client'
import { connected } from '../database/connected'
import { drafts } from '../database/schema'
import { readRevision } from '../estates/store'
import { Refused, refusedJson, type RefusedJson } from '../refused'
import {
  makeChange,
  patchOf,
  rebaseDraft,
  redo,
  stateAt,
  undo,
  type Edited,
  type NewChange,
  type OpenDraft,
} from './editing'
import { foresee, type ForeseenState, type PacketsWanted } from './foresee'
import { saveDraft, type Saved, type ToSave } from './save'
import { findState, keepState } from './states'
import { lockDraft, readLog, type Connection } from './store'
import { ASKED, makeWay } from '../threads/make-way'

makeWay(ASKED)

/** What is wanted of a draft. */
export type Wanted =
  | ({ readonly want: 'change' } & NewChange)
  | { readonly want: 'undo'; readonly author: string; readonly entry: number | null }
  | { readonly want: 'redo'; readonly author: string }
  | { readonly want: 'rebase'; readonly id: number; readonly number: number }
  | { readonly want: 'state'; readonly version: number }
  | { readonly want: 'patch' }
  | { readonly want: 'plan'; readonly seconds: number }
  | { readonly want: 'foresee'; readonly pending: unknown; readonly packets: PacketsWanted }
  | ({ readonly want: 'save' } & ToSave)

export interface DraftTask {
  readonly databaseUrl: string
  readonly draftId: number
  readonly wanted: Wanted
}

interface Made {
  readonly change: Edited
  readonly undo: Edited
  readonly redo: Edited
  readonly rebase: Edited
  /** The id of the state, as of a revision. */
  readonly state: number
  readonly patch: Change
  readonly plan: Plan
  readonly foresee: ForeseenState
  readonly save: Saved
}
export type Outcome<W extends Wanted['want']> =
  { readonly made: Made[W] } | { readonly refused: RefusedJson }

/** Revisions that drafts are made in, since a draft is edited step by step. */
const bases = new LRUCache<number, Estate>({ max: 4 })

async function estateOf(db: Database, id: number): Promise<Estate> {
  const known = bases.get(id)
  if (known) return known
  const { estate } = await readRevision(db, id)
  bases.set(id, estate)
  return estate
}

/** Opens a draft, and keeps it for this transaction alone. */
async function open(db: Database, tx: Connection, id: number): Promise<OpenDraft> {
  const draft = await lockDraft(tx, id)
  if (!draft) throw new Refused(404, 'no-such-draft', 'this draft is gone')
  const base = draft.baseId === null ? null : await estateOf(db, draft.baseId)
  return { draft, log: await readLog(tx, id), base }
}

/** What is done to a draft, by name. */
const DOING: {
  readonly [W in Wanted['want']]: (
    at: { readonly db: Database; readonly tx: Connection; readonly draft: OpenDraft },
    wanted: Extract<Wanted, { want: W }>,
  ) => Promise<Made[W]>
} = {
  change: ({ tx, draft }, wanted) => makeChange(tx, draft, wanted),
  undo: ({ tx, draft }, { author, entry }) => undo(tx, draft, author, entry),
  redo: ({ tx, draft }, { author }) => redo(tx, draft, author),
  rebase: async ({ db, tx, draft }, { id, number }) =>
    rebaseDraft(tx, draft, { id, number, estate: await estateOf(db, id) }),
  patch: ({ draft }) => Promise.resolve(patchOf(draft)),
  plan: ({ draft }, { seconds }) => {
    const end = performance.now() + seconds * 1000
    const now = stateAt(draft)
    const plan = planOf(draft.base!, shareWith(draft.base!, now), () => performance.now() > end)
    return Promise.resolve(plan)
  },
  state: ({ db, draft }, { version }) => stateId(db, draft, version),
  foresee: ({ draft }, { pending, packets }) => Promise.resolve(foresee(draft, pending, packets)),
  save: ({ db, tx, draft }, wanted) => saveDraft(db, tx, draft, wanted),
}

/** The id of a state as of a revision; without a change it is the base itself. */
async function stateId(db: Database, opened: OpenDraft, version: number): Promise<number> {
  const { draft, log } = opened
  if (version < draft.version - log.length)
    throw new Refused(404, 'no-such-version', 'this draft was put on another revision meanwhile')
  if (draft.baseId !== null && !log.some(({ number }) => number <= version)) return draft.baseId
  const known = await findState(db, draft.id, version)
  if (known !== null) return known
  const [row] = await db
    .select({ estateId: drafts.estateId })
    .from(drafts)
    .where(eq(drafts.id, draft.id))
  return keepState(db, row!.estateId, draft, version, stateAt(opened, version))
}

/** What reads the draft alone does not keep others from it. */
const READS: ReadonlySet<Wanted['want']> = new Set(['foresee', 'patch', 'plan', 'state'])

/**
 * The entry of the worker thread that edits drafts: it holds the estates that drafts are made in,
 * and checks the whole estate after each change, while the server's thread stays free.
 */
export default async function doDraft({
  databaseUrl,
  draftId,
  wanted,
}: DraftTask): Promise<Outcome<Wanted['want']>> {
  const act = DOING[wanted.want] as (at: object, wanted: Wanted) => Promise<Made[Wanted['want']]>
  try {
    return await connected(databaseUrl, async (db) => {
      if (READS.has(wanted.want)) {
        const draft = await db.transaction((tx) => open(db, tx, draftId))
        return { made: await act({ db, tx: db, draft }, wanted) }
      }
      return db.transaction(async (tx) => {
        const draft = await open(tx as unknown as Database, tx, draftId)
        return { made: await act({ db: tx as unknown as Database, tx, draft }, wanted) }
      })
    })
  } catch (error) {
    if (error instanceof Refused) return { refused: refusedJson(error) }
    throw error
  }
}
