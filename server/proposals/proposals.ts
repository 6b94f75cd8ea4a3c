import { LRUCache } from 'lru-cache'
import { Tinypool } from 'tinypool'
import { config } from '../config'
import { connectionString } from '../database/client'
import { workerFile } from '../files'
import type { Proposed, ProposalTask, Wanted } from './worker'

let pool: Tinypool | undefined
/** Revisions never change, so neither do proposals. */
const known = new LRUCache<string, Extract<Proposed, { proposals: unknown }>>({ max: 200 })

/** A trial that is under way may take so many times as long as changes are tried. */
const LAST_TRIAL = 3

/** Told where not even one change was tried in time. */
export class TooLong extends Error {}

function proposers(): Tinypool {
  pool ??= new Tinypool({
    filename: workerFile('proposals'),
    minThreads: 0,
    maxThreads: 1,
    idleTimeout: 300_000,
    resourceLimits: { maxOldGenerationSizeMb: config().SALT_TRAIL_PROPOSALS_MEGABYTES },
  })
  return pool
}

/**
 * What would mend a finding or a faulty question of a revision; null where whoever asked is gone
 * meanwhile. Then no more is tried, but the thread stays, since it knows the revision. So it does
 * where time is over: what was found so far is told. A thread that does not come back is ended.
 */
export async function proposalsOf(
  revisionId: number,
  wanted: Wanted,
  gone: AbortSignal,
): Promise<Proposed | null> {
  const key = JSON.stringify([revisionId, wanted])
  const held = known.get(key)
  if (held) return held
  const seconds = config().SALT_TRAIL_PROPOSALS_SECONDS
  const flag = new Int32Array(new SharedArrayBuffer(4))
  gone.addEventListener('abort', () => Atomics.store(flag, 0, 1))
  const task: ProposalTask = {
    databaseUrl: connectionString(),
    revisionId,
    wanted,
    gone: flag.buffer as SharedArrayBuffer,
    seconds,
  }
  const deadline = AbortSignal.timeout(seconds * 1000 * LAST_TRIAL)
  try {
    const found = (await proposers().run(task, { signal: deadline })) as Proposed
    if (gone.aborted) return null
    if ('proposals' in found && !found.isCut) known.set(key, found)
    return found
  } catch (error) {
    if (deadline.aborted) throw new TooLong()
    throw error
  }
}

export async function closeProposals(): Promise<void> {
  await pool?.destroy()
  pool = undefined
}
