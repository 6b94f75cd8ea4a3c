import { config } from '../config'
import { Tinypool } from 'tinypool'
import { countProblems, type ProblemsJson, type SourceFile } from '@salt-trail/core'
import { refusal } from '../http/respond'
import type { EstateContent } from '../estates/content'
import { workerFile } from '../files'
import type { Reading, ReadingTask, Wanted } from './worker'

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
  const task: ReadingTask = { ...(wanted as Wanted), files }
  const seconds = config().SALT_TRAIL_READING_SECONDS
  const deadline = AbortSignal.timeout(seconds * 1000)
  try {
    return (await readers().run(task, { signal: deadline })) as Reading<W['want']>
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
