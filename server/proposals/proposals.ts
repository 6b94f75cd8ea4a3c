import { LRUCache } from 'lru-cache'
import { Tinypool } from 'tinypool'
import { config } from '../config'
import { connectionString } from '../database/client'
import { workerFile } from '../files'
import type { Proposed, ProposalTask, Wanted } from './worker'

let pool: Tinypool | undefined
/** Revisions never change, so neither do proposals. */
const known = new LRUCache<string, Extract<Proposed, { proposals: unknown }>>({ max: 200 })

/** Told where proposals were not found in time; a later question may find the thread ready. */
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
 * meanwhile. Then no more is tried, but the thread stays, since it knows the revision. Past the
 * deadline the thread is ended.
 */
export async function proposalsOf(
  revisionId: number,
  wanted: Wanted,
  gone: AbortSignal,
): Promise<Proposed | null> {
  const key = JSON.stringify([revisionId, wanted])
  const held = known.get(key)
  if (held) return held
  const flag = new Int32Array(new SharedArrayBuffer(4))
  gone.addEventListener('abort', () => Atomics.store(flag, 0, 1))
  const task: ProposalTask = {
    databaseUrl: connectionString(),
    revisionId,
    wanted,
    gone: flag.buffer as SharedArrayBuffer,
  }
  const deadline = AbortSignal.timeout(config().SALT_TRAIL_PROPOSALS_SECONDS * 1000)
  try {
    const found = (await proposers().run(task, { signal: deadline })) as Proposed
    if (gone.aborted) return null
    if ('proposals' in found) known.set(key, found)
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
