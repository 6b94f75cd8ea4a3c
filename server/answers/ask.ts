import { config } from '../config'
import type { H3Event } from 'h3'
import { Tinypool } from 'tinypool'
import { refusal } from '../http/respond'
import { connectionString } from '../database/client'
import { workerFile } from '../files'
import { log } from '../log'
import type { AnswerName, Asked } from './answers'
import type { Answered, AnswerTask } from './worker'

let pool: Tinypool | undefined

/** One thread that holds models and answers from them, several questions in turn. */
function answering(): Tinypool {
  pool ??= new Tinypool({
    filename: workerFile('answers'),
    minThreads: 1,
    maxThreads: 1,
    concurrentTasksPerWorker: 32,
    resourceLimits: {
      maxOldGenerationSizeMb: config().SALT_TRAIL_ANSWERS_MEGABYTES,
      maxYoungGenerationSizeMb: 192,
    },
  })
  return pool
}

/**
 * The answer to a question about a revision, as a JSON text. Throws the refusal of the route that
 * asks.
 */
export async function ask<N extends AnswerName>(
  name: N,
  revisionId: number,
  asked: Asked<N>,
): Promise<string> {
  const task: AnswerTask = { databaseUrl: connectionString(), revisionId, name, asked }
  const answered = (await answering().run(task)) as Answered
  if ('json' in answered) return answered.json
  const { status, code, message, more } = answered.refused
  throw refusal(status, code, message, more)
}

/** The same as what a route sends. */
export async function answer<N extends AnswerName>(
  event: H3Event,
  name: N,
  revisionId: number,
  asked: Asked<N>,
): Promise<string> {
  const json = await ask(name, revisionId, asked)
  event.node.res.setHeader('content-type', 'application/json')
  return json
}

/**
 * Makes the model of a revision ready before the first question; the caller does not wait for it.
 */
export function makeReady(revisionId: number): void {
  ask('ready', revisionId, {}).catch((error: unknown) =>
    log.warn({ revisionId, err: error }, 'a revision could not be made ready'),
  )
}

export async function closeAnswers(): Promise<void> {
  await pool?.destroy()
  pool = undefined
}
