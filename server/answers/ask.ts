import type { H3Event } from 'h3'
import { config } from '../config'
import { connectionString } from '../database/client'
import { refusal } from '../http/respond'
import { countsFor, whileAsked } from '../http/while-asked'
import { log } from '../log'
import type { AnswerName, Asked } from './answers'
import { fairThreads, TooLong, type FairThreads } from '../threads/fair-threads'
import type { AnswerTask, Replied } from './worker'

/** Questions whose answer grows: the thread that holds the revision knows what was found so far. */
const GOES_ON: ReadonlySet<AnswerName> = new Set(['exposure', 'behind', 'talks'])

let threads: FairThreads<AnswerTask, Replied> | undefined

/** Threads that hold models and answer from them. */
function answering(): FairThreads<AnswerTask, Replied> {
  threads ??= fairThreads({
    threads: config().SALT_TRAIL_ANSWER_THREADS,
    worker: 'answers',
    limits: {
      maxOldGenerationSizeMb: config().SALT_TRAIL_ANSWERS_MEGABYTES,
      maxYoungGenerationSizeMb: 192,
    },
    after: ({ holds, reading }) => ({ holds, reading }),
  })
  return threads
}

/**
 * The answer to a question about a revision, as a JSON text. Throws the refusal of the route that
 * asks.
 */
export async function ask<N extends AnswerName>(
  event: H3Event,
  name: N,
  revisionId: number,
  asked: Asked<N>,
): Promise<string> {
  const asking = { asker: countsFor(event), gone: whileAsked(event), goesOn: GOES_ON.has(name) }
  return jsonOf(await reply(name, revisionId, asked, asking))
}

/** The same as what a route sends. */
export async function answer<N extends AnswerName>(
  event: H3Event,
  name: N,
  revisionId: number,
  asked: Asked<N>,
): Promise<string> {
  const json = await ask(event, name, revisionId, asked)
  event.node.res.setHeader('content-type', 'application/json')
  return json
}

/**
 * Makes the model of a revision ready before the first question; the caller does not wait for it.
 */
export function makeReady(event: H3Event, revisionId: number): void {
  reply('ready', revisionId, {}, { asker: countsFor(event) })
    .then(jsonOf)
    .catch((error: unknown) =>
      log.warn({ revisionId, err: error }, 'a revision could not be made ready'),
    )
}

interface AskedBy {
  readonly asker: string
  readonly gone?: AbortSignal
  readonly goesOn?: boolean
}

/** The reply of a thread; a revision that none holds is read first, as long as reading may take. */
async function reply<N extends AnswerName>(
  name: N,
  revisionId: number,
  asked: Asked<N>,
  by: AskedBy,
): Promise<Replied> {
  const { SALT_TRAIL_READING_SECONDS, SALT_TRAIL_ANSWER_SECONDS } = config()
  const task: AnswerTask = { databaseUrl: connectionString(), revisionId, name, asked }
  const reading = { asker: by.asker, revisionId, seconds: SALT_TRAIL_READING_SECONDS }
  try {
    if (name === 'ready') return await answering().run(task, reading)
    if (!answering().isHeld(revisionId)) {
      const read = await answering().run({ ...task, name: 'ready', asked: {} }, reading)
      if ('failed' in read) return read
    }
    return await answering().run(task, { ...by, revisionId, seconds: SALT_TRAIL_ANSWER_SECONDS })
  } catch (error) {
    throw by.gone?.aborted ? GONE() : told(error)
  }
}

const GONE = () => refusal(499, 'gone', 'whoever asked does not wait any more')

/** The refusal for work that took too much time or memory. */
function told(error: unknown): unknown {
  if (error instanceof TooLong)
    return refusal(
      503,
      'too-long',
      `reading the estate and answering took more than ${error.seconds} seconds, which is what each may (SALT_TRAIL_READING_SECONDS, SALT_TRAIL_ANSWER_SECONDS); ask for less at once`,
    )
  if ((error as { code?: string } | null)?.code !== 'ERR_WORKER_OUT_OF_MEMORY') return error
  return refusal(
    507,
    'no-memory',
    `the answer takes more than ${config().SALT_TRAIL_ANSWERS_MEGABYTES} MiB, which is what it may (SALT_TRAIL_ANSWERS_MEGABYTES)`,
  )
}

function jsonOf(replied: Replied): string {
  if ('json' in replied) return replied.json
  if ('failed' in replied) throw replied.failed as Error
  const { status, code, message, more } = replied.refused
  throw refusal(status, code, message, more)
}

export async function closeAnswers(): Promise<void> {
  await threads?.close()
  threads = undefined
}
