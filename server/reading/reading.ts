import { config } from '../config'
import { countProblems, type ProblemsJson, type SourceFile } from '@salt-trail/core'
import { readRawBody, type H3Event } from 'h3'
import type { z } from 'zod'
import { parse, refusal } from '../http/respond'
import type { EstateContent } from '../estates/content'
import { countsFor, whileAsked } from '../http/while-asked'
import { fairThreads, TooLong, type FairThreads } from '../threads/fair-threads'
import type { BodyTask, ParsedBody, Reading, ReadingTask, Wanted } from './worker'

let threads: FairThreads<ReadingTask | BodyTask, unknown> | undefined

/** How much memory the reading of some files may take. */
const megabytes = (): number => config().SALT_TRAIL_READING_MEGABYTES

/** Two threads in fair turns, so that nobody waits behind all that somebody else sends. */
function readers(): FairThreads<ReadingTask | BodyTask, unknown> {
  threads ??= fairThreads({
    threads: 2,
    worker: 'reading',
    limits: {
      maxOldGenerationSizeMb: megabytes(),
      maxYoungGenerationSizeMb: Math.min(128, megabytes()),
    },
  })
  return threads
}

/** Reads and checks files beside the server's own thread, and makes of them what is wanted. */
export async function reading<W extends Wanted>(
  event: H3Event,
  files: readonly SourceFile[],
  wanted: W,
): Promise<Reading<W['want']>> {
  return run<Reading<W['want']>>(event, { ...(wanted as Wanted), files })
}

/** Runs a task in one of the threads that read, as long and with as much memory as it may take. */
async function run<T>(event: H3Event, task: ReadingTask | BodyTask): Promise<T> {
  const seconds = config().SALT_TRAIL_READING_SECONDS
  const gone = whileAsked(event)
  try {
    return (await readers().run(task, { asker: countsFor(event), gone, seconds })) as T
  } catch (error) {
    if (gone.aborted) throw refusal(499, 'gone', 'whoever asked does not wait any more')
    if (error instanceof TooLong)
      throw refusal(
        503,
        'too-long',
        `reading these files took more than ${seconds} seconds, which is what it may (SALT_TRAIL_READING_SECONDS)`,
      )
    if ((error as { code?: string } | null)?.code !== 'ERR_WORKER_OUT_OF_MEMORY') throw error
    throw refusal(
      507,
      'no-memory',
      `reading these files takes more than ${megabytes()} MiB, which is what it may (SALT_TRAIL_READING_MEGABYTES)`,
    )
  }
}

/**
 * The body of a request with files, which may be large: its text is parsed beside the server's own
 * thread, and of what it says only what the schema knows comes back.
 */
export async function bodyWithFiles<T extends z.ZodObject>(
  event: H3Event,
  schema: T,
): Promise<z.output<T>> {
  const bytes = (await readRawBody(event, false)) ?? new Uint8Array()
  const { value } = await run<ParsedBody>(event, {
    want: 'body',
    bytes,
    keys: Object.keys(schema.shape),
  })
  if (value === undefined) throw refusal(400, 'bad-json', 'the body is no JSON')
  return parse(schema, value, 'body')
}

/** What is saved of some files, or a refusal with every error. */
export async function contentOrRefusal(
  event: H3Event,
  files: readonly SourceFile[],
): Promise<{ content: EstateContent; warnings: ProblemsJson['warnings'] }> {
  const {
    problems: { errors, warnings },
    made,
  } = await reading(event, files, { want: 'content' })
  if (made) return { content: made, warnings }
  const count = countProblems(errors)
  throw refusal(
    422,
    'invalid-estate',
    `the files hold ${count} error${count === 1 ? '' : 's'}; nothing was saved`,
    { errors, warnings },
  )
}

export async function closeReaders(): Promise<void> {
  await threads?.close()
  threads = undefined
}
