import PgBoss from 'pg-boss'
import type pg from 'pg'
import { log } from '../log'

/**
 * A share of a revision's analysis to be found, or, where all are there, all of them to be joined.
 */
export interface AnalysisJob {
  readonly revisionId: number
  readonly engine: string
  readonly share: { readonly number: number; readonly of: number } | 'join'
}

const QUEUE = 'analysis-shares'
/** How often a job is given out again after its process died. */
const RETRIES = 2

export interface TakenJob {
  readonly id: string
  readonly data: AnalysisJob
}

/** The queue that all processes share; it lies in the database, beside what they read and write. */
export interface AnalysisQueue {
  /** Sends jobs as part of the transaction of this client. */
  readonly put: (client: pg.ClientBase, jobs: readonly AnalysisJob[]) => Promise<void>
  /** Takes the next job, which no other process gets; null where there is none. */
  readonly take: () => Promise<TakenJob | null>
  /** How many jobs are not taken. */
  readonly waiting: () => Promise<number>
  readonly finish: (job: TakenJob) => Promise<void>
  /** Gives back a job whose process died. False where it was given out too often. */
  readonly giveBack: (job: TakenJob, why: string) => Promise<boolean>
  readonly close: () => Promise<void>
}

/**
 * Opens the queue. With `keeps`, as in the server, it is created where it does not exist, and gives
 * out again what a process took and did not finish within `seconds`.
 */
export async function openQueue({
  connectionString,
  keeps,
  seconds,
}: {
  connectionString: string
  keeps: boolean
  seconds: number
}): Promise<AnalysisQueue> {
  const boss = new PgBoss({
    connectionString,
    max: 1,
    schema: 'analysis_queue',
    schedule: false,
    supervise: keeps,
    migrate: keeps,
  })
  boss.on('error', (error) => log.warn({ err: error }, 'the queue of analyses could not be asked'))
  await boss.start()
  // A large share may take as long as a whole analysis of a smaller estate.
  const about = { retryLimit: RETRIES, expireInSeconds: seconds }
  if (keeps) await boss.createQueue(QUEUE, { name: QUEUE, policy: 'standard', ...about })
  return {
    put: async (client, jobs) => {
      const db = { executeSql: (text: string, values: unknown[]) => client.query(text, values) }
      await boss.insert(
        jobs.map((data) => ({ name: QUEUE, data, ...about })),
        { db },
      )
    },
    take: async () => {
      const [job] = await boss.fetch<AnalysisJob>(QUEUE)
      return job ?? null
    },
    waiting: () => boss.getQueueSize(QUEUE),
    finish: (job) => boss.complete(QUEUE, job.id),
    giveBack: async (job, why) => {
      await boss.fail(QUEUE, job.id, { why })
      const now = await boss.getJobById(QUEUE, job.id)
      return now !== null && now.state !== 'failed'
    },
    close: () => boss.stop({ graceful: false, wait: true }),
  }
}
