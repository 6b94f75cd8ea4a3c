import { Tinypool } from 'tinypool'
import { stopAnalysis } from '../analysis/runs'
import { config } from '../config'
import { connectionString, type Database } from '../database/client'
import { workerFile } from '../files'
import { refusal } from '../http/respond'
import { log } from '../log'
import { dropState, findState, olderStates } from './states'
import type { PacketsWanted } from './foresee'
import { findDraft } from './store'
import type { ToSave } from './save'
import type { DraftTask, Outcome, Wanted } from './worker'

/** So many states of a draft are kept beside the one that is looked at. */
const MOST_OLDER = 3

let editors: Tinypool | undefined
let planners: Tinypool | undefined
let foreseers: Tinypool | undefined

const pool = (idleTimeout: number): Tinypool =>
  new Tinypool({
    filename: workerFile('drafts'),
    minThreads: 0,
    maxThreads: 1,
    idleTimeout,
    resourceLimits: { maxOldGenerationSizeMb: config().SALT_TRAIL_DRAFTS_MEGABYTES },
  })

/** Does something with a draft in a thread, or throws its refusal. */
async function done<W extends Wanted>(
  thread: Tinypool,
  draftId: number,
  wanted: W,
  signal?: AbortSignal,
): Promise<Extract<Outcome<W['want']>, { made: unknown }>['made']> {
  const task: DraftTask = { databaseUrl: connectionString(), draftId, wanted }
  const outcome = (await thread.run(task, signal ? { signal } : {})) as Outcome<W['want']>
  if ('made' in outcome) return outcome.made
  const { status, code, message, more } = outcome.refused
  throw refusal(status, code, message, more)
}

/** Ends work that takes longer than that, and says so. */
async function within<T>(
  seconds: number,
  what: string,
  work: (late: AbortSignal) => Promise<T>,
): Promise<T> {
  const late = AbortSignal.timeout(seconds * 1000)
  try {
    return await work(late)
  } catch (error) {
    if (!late.aborted) throw error
    throw refusal(503, 'too-long', `${what} took longer than ${seconds} s and was given up`)
  }
}

/** Edits a draft, or reads something of it. */
export function inDraft<W extends Exclude<Wanted, { want: 'plan' | 'foresee' | 'save' }>>(
  draftId: number,
  wanted: W,
) {
  editors ??= pool(300_000)
  const thread = editors
  return within(config().SALT_TRAIL_EDIT_SECONDS, 'the draft', (late) =>
    done(thread, draftId, wanted, late),
  )
}

/** Saves a draft, in the thread that also plans: it proves the expectations of the whole estate. */
export function saveOfDraft(draftId: number, saving: ToSave) {
  planners ??= pool(10_000)
  const thread = planners
  return within(4 * config().SALT_TRAIL_PLAN_SECONDS, 'saving', (late) =>
    done(thread, draftId, { want: 'save', ...saving }, late),
  )
}

/** What a draft brings about, in a thread of its own that keeps what is known of the base. */
export function foreseen(
  draftId: number,
  { pending, packets }: { readonly pending: unknown; readonly packets: PacketsWanted },
  gone: AbortSignal,
) {
  foreseers ??= pool(600_000)
  const thread = foreseers
  return within(4 * config().SALT_TRAIL_EDIT_SECONDS, 'what follows from the draft', (late) =>
    done(thread, draftId, { want: 'foresee', pending, packets }, AbortSignal.any([gone, late])),
  )
}

/** The plan of a draft, found in a thread of its own, since its order may be searched for long. */
export function planOfDraft(draftId: number, gone: AbortSignal) {
  planners ??= pool(10_000)
  const thread = planners
  const seconds = config().SALT_TRAIL_PLAN_SECONDS
  return within(4 * seconds, 'the plan', (late) =>
    done(thread, draftId, { want: 'plan', seconds }, AbortSignal.any([gone, late])),
  )
}

/**
 * What a draft makes of its base, kept like a revision: its id and the number of the base. A draft
 * without a change is its base. Null where there is no such draft or version.
 */
export async function stateOfDraft(
  db: Database,
  slug: string,
  draftId: number,
  wanted: number | null,
): Promise<{ id: number; number: number; draft: { id: number; version: number } } | null> {
  const draft = await findDraft(db, slug, draftId)
  const version = wanted ?? draft?.version ?? 0
  if (!draft || version > draft.version) return null
  const named = { number: draft.baseNumber, draft: { id: draftId, version } }
  const known = await findState(db, draftId, version)
  if (known !== null) return { id: known, ...named }
  const id = await inDraft(draftId, { want: 'state', version })
  if (version === draft.version)
    forgetOlder(db, draftId, version).catch((error: unknown) =>
      log.warn({ draftId, err: error }, 'older states of a draft could not be dropped'),
    )
  return { id, ...named }
}

/**
 * Ends the analyses of states that a newer one has taken the place of, and drops those nobody looks
 * at any more.
 */
async function forgetOlder(db: Database, draftId: number, version: number): Promise<void> {
  for (const [at, id] of (await olderStates(db, draftId, version)).entries()) {
    await stopAnalysis(id)
    if (at >= MOST_OLDER) await dropState(db, id)
  }
}

export async function closeDrafts(): Promise<void> {
  await Promise.all([editors?.destroy(), planners?.destroy(), foreseers?.destroy()])
  editors = undefined
  planners = undefined
  foreseers = undefined
}
