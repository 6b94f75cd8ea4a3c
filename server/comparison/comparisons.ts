import { LRUCache } from 'lru-cache'
import { Tinypool } from 'tinypool'
import { connectionString } from '../database/client'
import { workerFile } from '../files'
import type { Comparison, ComparisonTask } from './worker'

let pool: Tinypool | undefined
/** Revisions never change, so neither does what differs between two of them. */
const known = new LRUCache<string, Promise<Comparison>>({ max: 32 })

/** What differs between two revisions; requests for the same two share one comparison. */
export function comparison(before: number, after: number): Promise<Comparison> {
  const key = `${before} ${after}`
  const held = known.get(key)
  if (held) return held
  pool ??= new Tinypool({
    filename: workerFile('comparison'),
    minThreads: 0,
    maxThreads: 1,
    idleTimeout: 10_000,
  })
  const task: ComparisonTask = { databaseUrl: connectionString(), before, after }
  const made = pool.run(task) as Promise<Comparison>
  // A failure is not kept: the database may be back for the next request.
  made.catch(() => known.delete(key))
  known.set(key, made)
  return made
}

export async function closeComparisons(): Promise<void> {
  await pool?.destroy()
  pool = undefined
}
