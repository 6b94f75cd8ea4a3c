import { config } from '../config'
import { Tinypool } from 'tinypool'
import { countProblems, type ProblemsJson, type SourceFile } from '@salt-trail/core'
import { readRawBody, type H3Event } from 'h3'
import type { z } from 'zod'
import { parse, refusal } from '../http/respond'
import type { EstateContent } from '../estates/content'
import { workerFile } from '../files'
import type { BodyTask, ParsedBody, Reading, ReadingTask, Wanted } from './worker'

let pool: Tinypool | undefined

/** How much memory the reading of some files may take. */
const megabytes = (): number => config().SALT_TRAIL_READING_MEGABYTES

/** Two threads, so that a few small files do not wait behind large ones. */
function readers(): Tinypool {
  pool ??= new Tinypool({
    filename: workerFile('reading'),
    minThreads: 1,
    maxThreads: 2,
    resourceLimits: {
      maxOldGenerationSizeMb: megabytes(),
      maxYoungGenerationSizeMb: Math.min(128, megabytes()),
    },
  })
  return pool
}

/** Reads and checks files beside the server's own thread, and makes of them what is wanted. */
export async function reading<W extends Wanted>(
  files: readonly SourceFile[],
  wanted: W,
): Promise<Reading<W['want']>> {
  return run<Reading<W['want']>>({ ...(wanted as Wanted), files })
}

/** Runs a task in one of the threads that read, as long and with as much memory as it may take. */
async function run<T>(task: ReadingTask | BodyTask): Promise<T> {
  const seconds = config().SALT_TRAIL_READING_SECONDS
  const deadline = AbortSignal.timeout(seconds * 1000)
  try {
    return (await readers().run(task, { signal: deadline })) as T
  } catch (error) {
    if (deadline.aborted)
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
  const { value } = await run<ParsedBody>({
    want: 'body',
    bytes,
    keys: Object.keys(schema.shape),
  })
  if (value === undefined) throw refusal(400, 'bad-json', 'the body is no JSON')
  return parse(schema, value, 'body')
}

/** What is saved of some files, or a refusal with every error. */
export async function contentOrRefusal(
  files: readonly SourceFile[],
): Promise<{ content: EstateContent; warnings: ProblemsJson['warnings'] }> {
  const {
    problems: { errors, warnings },
    made,
  } = await reading(files, { want: 'content' })
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
  await pool?.destroy()
  pool = undefined
}
