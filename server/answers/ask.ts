import type { H3Event } from 'h3'
import { config } from '../config'
import { connectionString } from '../database/client'
import { refusal } from '../http/respond'
import { whileAsked } from '../http/while-asked'
import { log } from '../log'
import type { AnswerName, Asked } from './answers'
import { AnsweringTooLong, closeThreads, replyTo, type Asking } from './threads'
import type { Replied } from './worker'

/** Questions whose answer grows: the thread that holds the revision knows what was found so far. */
const GOES_ON: ReadonlySet<AnswerName> = new Set(['exposure', 'behind', 'talks'])

/** Whom a request counts for, where several ask at once. */
const askerOf = (event: H3Event): string => String(event.context.asker?.id ?? '')

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
  const asking = { asker: askerOf(event), gone: whileAsked(event), goesOn: GOES_ON.has(name) }
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
  reply('ready', revisionId, {}, { asker: askerOf(event) })
    .then(jsonOf)
    .catch((error: unknown) =>
      log.warn({ revisionId, err: error }, 'a revision could not be made ready'),
    )
}

async function reply<N extends AnswerName>(
  name: N,
  revisionId: number,
  asked: Asked<N>,
  asking: Asking,
): Promise<Replied> {
  try {
    return await replyTo({ databaseUrl: connectionString(), revisionId, name, asked }, asking)
  } catch (error) {
    if (asking.gone?.aborted) throw refusal(499, 'gone', 'whoever asked does not wait any more')
    if (error instanceof AnsweringTooLong)
      throw refusal(
        503,
        'too-long',
        `the answer took more than ${error.seconds} seconds, which is what it may (SALT_TRAIL_ANSWER_SECONDS); ask for less at once`,
      )
    if ((error as { code?: string } | null)?.code !== 'ERR_WORKER_OUT_OF_MEMORY') throw error
    throw refusal(
      507,
      'no-memory',
      `the answer takes more than ${config().SALT_TRAIL_ANSWERS_MEGABYTES} MiB, which is what it may (SALT_TRAIL_ANSWERS_MEGABYTES)`,
    )
  }
}

function jsonOf(replied: Replied): string {
  if ('json' in replied) return replied.json
  if ('failed' in replied) throw replied.failed as Error
  const { status, code, message, more } = replied.refused
  throw refusal(status, code, message, more)
}

export const closeAnswers = (): Promise<void> => closeThreads()
