import { fork, type ChildProcess } from 'node:child_process'
import { setTimeout as sleep } from 'node:timers/promises'
import { connectionPool, connectionString, database } from '../database/client'
import { workerFile } from '../files'
import { log } from '../log'
import { AnalysisEnded } from './ended'
import { config } from '../config'
import { SHARES } from './limits'
import type { ProcessNews } from './process'
import type { Progress } from './progress'
import { openQueue, type AnalysisQueue, type TakenJob } from './queue'
import { findAnalysis } from './results'
import { beginShares, dropShares, failShare, stateOfShares, type SharedAnalysis } from './shares'

/** The interval at which the progress of an analysis is read, in milliseconds. */
const PAUSE = 500
/** After this many such reads without a database the analysis fails. */
const MOST_MISSED = 120

/** How many processes may die of an analysis in a row, with no share finished in between. */
const MOST_DEATHS = 5
const deaths = new Map<number, number>()

/** The processes this server started, with the job that each of them has. */
const processes = new Map<ChildProcess, TakenJob | null>()
let opened: Promise<AnalysisQueue> | undefined

function queue(): Promise<AnalysisQueue> {
  opened ??= openQueue({
    connectionString: connectionString(),
    keeps: true,
    seconds: config().SALT_TRAIL_ANALYSIS_SECONDS,
  }).catch((error: unknown) => {
    opened = undefined
    throw error
  })
  return opened
}

/**
 * Starts as many processes as may run and find something to do; each ends by itself when there is
 * nothing left.
 */
async function startProcesses(): Promise<void> {
  const waiting = await (await queue()).waiting()
  const idle = (): number => [...processes.values()].filter((job) => job === null).length
  while (processes.size < config().SALT_TRAIL_ANALYSIS_PROCESSES && idle() < waiting) {
    const child = fork(workerFile('analysis-process'), ['--until-none'], {
      // A large young generation: most objects of an analysis are short-lived.
      execArgv: [
        `--max-old-space-size=${config().SALT_TRAIL_ANALYSIS_MEGABYTES}`,
        '--max-semi-space-size=64',
      ],
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    })
    processes.set(child, null)
    child.on('message', (news: ProcessNews) => {
      const had = processes.get(child)
      if (had && 'ended' in news) deaths.delete(had.data.revisionId)
      processes.set(child, 'took' in news ? news.took : null)
    })
    child.on('exit', (code, signal) => {
      const job = processes.get(child)
      processes.delete(child)
      if (job)
        died(job, signal ?? `status ${code}`).catch((error: unknown) =>
          log.error({ err: error }, 'what a process had could not be given back'),
        )
    })
  }
}

/** A process died in the middle: another one takes its job, unless that was tried too often. */
async function died(job: TakenJob, how: string): Promise<void> {
  const why = `the process that computed a share of it died (${how}); it may take ${config().SALT_TRAIL_ANALYSIS_MEGABYTES} MiB (SALT_TRAIL_ANALYSIS_MEGABYTES)`
  log.warn({ job: job.data, how }, 'a process that analyses died')
  const { revisionId } = job.data
  const inARow = (deaths.get(revisionId) ?? 0) + 1
  deaths.set(revisionId, inARow)
  if ((await (await queue()).giveBack(job, why)) && inARow < MOST_DEATHS) return
  deaths.delete(revisionId)
  await failShare(database(), job.data, why)
}

/**
 * Analyses a large revision by processes that share a queue: its shares are put there, unless they
 * are under way already (by another server, or from before this one was started), and it is looked
 * how far they are. Throws AnalysisEnded.
 */
export async function analyseInShares(
  analysis: SharedAnalysis,
  signal: AbortSignal,
  tell: (progress: Progress) => void,
): Promise<void> {
  const client = await connectionPool().connect()
  try {
    await beginShares(client, await queue(), analysis, SHARES)
  } finally {
    client.release()
  }
  for (let missed = 0; ;) {
    if (signal.aborted) {
      await stopShares(analysis)
      signal.throwIfAborted()
    }
    try {
      await startProcesses()
      const db = database()
      const state = await stateOfShares(db, analysis)
      if (state?.failed) throw new AnalysisEnded('failed', `the analysis failed: ${state.failed}`)
      if (!state) {
        if (await findAnalysis(db, analysis.revisionId, analysis.engine)) return
        throw new AnalysisEnded('stopped', 'somebody stopped this analysis')
      }
      tell({
        about: state.done < state.of ? 'shares of it' : 'joining its shares',
        done: state.done,
        of: state.of + 1,
      })
      missed = 0
    } catch (error) {
      if (error instanceof AnalysisEnded || ++missed > MOST_MISSED) throw error
    }
    await sleep(PAUSE, undefined, { signal }).catch(() => undefined)
  }
}

async function stopShares({ revisionId }: SharedAnalysis): Promise<void> {
  const inUse = [...processes].filter(([, job]) => job?.data.revisionId === revisionId)
  await dropShares(database(), revisionId)
  for (const [child, job] of inUse) {
    processes.set(child, null)
    child.kill('SIGKILL')
    await (await queue()).finish(job!)
  }
}

/** Ends all processes; their jobs are left for others, or for later. */
export async function closeProcesses(): Promise<void> {
  const left = await opened
  const jobs = [...processes.values()]
  for (const child of processes.keys()) {
    processes.set(child, null)
    child.kill('SIGKILL')
  }
  for (const job of jobs)
    if (job) await left?.giveBack(job, 'the server was stopped').catch(() => undefined)
  await left?.close()
  opened = undefined
}
