import { LRUCache } from 'lru-cache'
import { Tinypool } from 'tinypool'
import { connectionString } from '../database/client'
import { workerFile } from '../files'
import type { Section } from '@salt-trail/core'
import type { Comparison, ComparisonTask, HistoryTask, ObjectHistory } from './worker'

let pool: Tinypool | undefined
/** Revisions never change, so neither does what differs between two of them. */
const known = new LRUCache<string, Promise<Comparison>>({ max: 32 })

const comparing = (): Tinypool =>
  (pool ??= new Tinypool({
    filename: workerFile('comparison'),
    minThreads: 0,
    maxThreads: 1,
    idleTimeout: 10_000,
  }))

/** Revisions are read for one object no longer than this. */
const MOST_MILLISECONDS = 60_000

/**
 * What became of an object, or of a section that is edited as one, over some revisions, the newest
 * first; read one after the other.
 */
export function objectHistory(
  section: Section,
  object: string,
  revisions: readonly number[],
): Promise<ObjectHistory> {
  const task: HistoryTask = {
    ...{ kind: 'history', databaseUrl: connectionString() },
    ...{ section, object, revisions },
  }
  const signal = AbortSignal.timeout(MOST_MILLISECONDS)
  return comparing().run(task, { signal }) as Promise<ObjectHistory>
}

/** What differs between two revisions; requests for the same two share one comparison. */
export function comparison(before: number, after: number): Promise<Comparison> {
  const key = `${before} ${after}`
  const held = known.get(key)
  if (held) return held
  const task: ComparisonTask = {
    ...{ kind: 'comparison', databaseUrl: connectionString() },
    ...{ before, after },
  }
  const made = comparing().run(task) as Promise<Comparison>
  // A failure is not kept: the database may be back for the next request.
  made.catch(() => known.delete(key))
  known.set(key, made)
  return made
}

export async function closeComparisons(): Promise<void> {
  await pool?.destroy()
  pool = undefined
}
