import { availableParallelism } from 'node:os'
import { MessageChannel } from 'node:worker_threads'
import { LRUCache } from 'lru-cache'
import { Tinypool } from 'tinypool'
import { connectionString, type Database } from '../database/client'
import { failureMessage } from '../database/failure'
import { workerFile } from '../files'
import { sizeOfDocument } from '../estates/store'
import { log } from '../log'
import { AnalysisEnded } from './ended'
import { engine } from '../engine'
import { config } from '../config'
import { analyseInShares, closeProcesses } from './processes'
import type { Progress } from './progress'
import { findAnalysis } from './results'
import type { AnalysisTask } from './worker'

export type AnalysisState =
  | { readonly state: 'none' }
  | { readonly state: 'done'; readonly finishedAt: Date; readonly milliseconds: number }
  | { readonly state: 'running'; readonly progress: Progress }
  | { readonly state: 'failed' | 'stopped'; readonly message: string }

interface Run {
  progress: Progress
  readonly done: Promise<void>
  readonly stop: (why: AnalysisEnded) => void
}

const runs = new Map<number, Run>()
/** Why the latest run of a revision failed; when it is asked for again, it runs again. */
const endings = new LRUCache<number, AnalysisEnded>({ max: 1_000 })

/**
 * Those that are soon done have a thread of their own, so that they never wait for long ones: small
 * documents begin there, and go on among the long ones, from their beginning, if they are not done
 * in time.
 */
type Lane = 'quick' | 'long'
const QUICK_BYTES = 2 ** 20
const QUICK_SECONDS = 5

const lanes = new Map<Lane, Tinypool>()

/**
 * The workers of a lane, each made for one analysis and ended after it: one for each core but the
 * server's own where analyses are long.
 */
function workers(lane: Lane): Tinypool {
  const known = lanes.get(lane)
  if (known) return known
  const made = new Tinypool({
    filename: workerFile('analysis'),
    minThreads: 0,
    maxThreads: lane === 'quick' ? 1 : Math.max(1, availableParallelism() - 1),
    isolateWorkers: true,
    // A large young generation: most objects of an analysis are short-lived.
    resourceLimits: {
      maxOldGenerationSizeMb: config().SALT_TRAIL_ANALYSIS_MEGABYTES,
      maxYoungGenerationSizeMb: Math.min(192, config().SALT_TRAIL_ANALYSIS_MEGABYTES),
    },
  })
  lanes.set(lane, made)
  return made
}

/**
 * Resolves once a revision is analysed; all who ask while it runs share one run. Throws
 * AnalysisEnded.
 */
export function analysed(db: Database, revisionId: number): Promise<void> {
  const ended = endings.get(revisionId)
  if (ended) return Promise.reject(ended)
  return (runs.get(revisionId) ?? begin(db, revisionId)).done
}

/**
 * Begins the analysis of a revision, unless it is there or under way; the caller does not wait for
 * it.
 */
export function analyseSoon(db: Database, revisionId: number): void {
  endings.delete(revisionId)
  const run = runs.get(revisionId) ?? begin(db, revisionId)
  run.done.catch(() => {
    // Reported when its state is asked for.
  })
}

/** Resolves once it has stopped. */
export async function stopAnalysis(revisionId: number): Promise<void> {
  const run = runs.get(revisionId)
  run?.stop(new AnalysisEnded('stopped', 'somebody stopped this analysis'))
  await run?.done.catch(() => undefined)
}

export async function stateOf(db: Database, revisionId: number): Promise<AnalysisState> {
  const run = runs.get(revisionId)
  const ended = endings.get(revisionId)
  if (ended && !run) return { state: ended.state, message: ended.message }
  // A run may only be looking whether the analysis is there.
  const found = await findAnalysis(db, revisionId, engine())
  if (found) return { state: 'done', ...found }
  return run ? { state: 'running', progress: run.progress } : { state: 'none' }
}

export async function closeWorkers(): Promise<void> {
  for (const run of runs.values()) run.stop(new AnalysisEnded('stopped', 'the server was stopped'))
  const open = [...lanes.values()]
  lanes.clear()
  await Promise.all(open.map((one) => one.destroy()))
  await closeProcesses()
}

function begin(db: Database, revisionId: number): Run {
  const abort = new AbortController()
  let why: AnalysisEnded | undefined
  const stop = (because: AnalysisEnded): void => {
    why ??= because
    abort.abort()
  }
  const done = runOne(db, revisionId, abort.signal, (progress) => (run.progress = progress), stop)
    .catch((error: unknown) => {
      const ended =
        why ??
        (error instanceof AnalysisEnded
          ? error
          : new AnalysisEnded('failed', `the analysis failed: ${failureMessage(error)}`))
      endings.set(revisionId, ended)
      log[ended.state === 'failed' ? 'error' : 'info'](
        { revisionId, err: ended.state === 'failed' ? error : undefined },
        ended.message,
      )
      throw ended
    })
    .finally(() => runs.delete(revisionId))
  const run: Run = { progress: { about: 'waiting', done: 0, of: 1 }, done, stop }
  runs.set(revisionId, run)
  return run
}

async function runOne(
  db: Database,
  revisionId: number,
  signal: AbortSignal,
  tell: (progress: Progress) => void,
  stop: (why: AnalysisEnded) => void,
): Promise<void> {
  if (await findAnalysis(db, revisionId, engine())) return
  const bytes = await sizeOfDocument(db, revisionId)
  if (bytes >= config().SALT_TRAIL_SHARES_FROM_MEGABYTES * 2 ** 20)
    return analyseInShares({ revisionId, engine: engine() }, signal, tell)
  const most = config().SALT_TRAIL_ANALYSIS_SECONDS
  if (bytes < QUICK_BYTES && most > QUICK_SECONDS) {
    const late = new AbortController()
    const either = AbortSignal.any([signal, late.signal])
    try {
      return await runIn('quick', revisionId, either, tell, QUICK_SECONDS, () => late.abort())
    } catch (error) {
      if (!late.signal.aborted || signal.aborted) throw error
    }
  }
  const why = `the analysis was stopped after ${most} seconds`
  await runIn('long', revisionId, signal, tell, most, () => stop(new AnalysisEnded('stopped', why)))
}

/** Runs an analysis in a lane; `onLate` is called where it takes longer than it may. */
async function runIn(
  lane: Lane,
  revisionId: number,
  signal: AbortSignal,
  tell: (progress: Progress) => void,
  seconds: number,
  onLate: () => void,
): Promise<void> {
  const { port1, port2 } = new MessageChannel()
  // It counts from when a worker begins, not while it waits for one.
  let timer: NodeJS.Timeout | undefined
  port1.on('message', (progress: Progress) => {
    timer ??= setTimeout(onLate, seconds * 1_000)
    tell(progress)
  })
  const task: AnalysisTask = {
    revisionId,
    engine: engine(),
    databaseUrl: connectionString(),
    port: port2,
  }
  try {
    await workers(lane).run(task, { transferList: [port2], signal })
  } finally {
    clearTimeout(timer)
    port1.close()
  }
}
