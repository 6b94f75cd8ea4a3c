import { Tinypool } from 'tinypool'
import { config } from '../config'
import { workerFile } from '../files'
import { nextTurn, type Waiting } from './turns'
import type { AnswerTask, Replied } from './worker'

/** A thread, with what it has and does. Each is a pool of one, which makes it anew if it ends. */
interface Thread {
  readonly pool: Tinypool
  asker: string | null
  holds: ReadonlySet<number>
}

/** Who asks, until when he does, and how long that may take. */
export interface Asking {
  readonly asker: string
  readonly gone?: AbortSignal
  readonly goesOn?: boolean
}

interface Question extends Waiting {
  readonly task: AnswerTask
  readonly seconds: number
  readonly gone: AbortSignal | undefined
  readonly resolve: (replied: Replied) => void
  readonly reject: (error: unknown) => void
}

/** A question took longer than it may; its thread was ended. */
export class AnsweringTooLong extends Error {
  constructor(readonly seconds: number) {
    super(`the answer took more than ${seconds} seconds`)
  }
}

/** What nobody waits for any more goes on for so long, since a new thread would read all again. */
const GRACE = 1_000
/** Of a revision that is being read for the first time: it is waited for. */
const UNKNOWN = 10_000

let threads: Thread[] | undefined
let waiting: Question[] = []
let served = 0
const lastServed = new Map<string, number>()
const readingTimes = new Map<number, number>()
let timer: NodeJS.Timeout | undefined

function begin(): Thread[] {
  threads ??= Array.from({ length: config().SALT_TRAIL_ANSWER_THREADS }, () => ({
    pool: new Tinypool({
      filename: workerFile('answers'),
      minThreads: 0,
      maxThreads: 1,
      idleTimeout: 2 ** 31 - 1,
      resourceLimits: {
        maxOldGenerationSizeMb: config().SALT_TRAIL_ANSWERS_MEGABYTES,
        maxYoungGenerationSizeMb: 192,
      },
    }),
    asker: null,
    holds: new Set<number>(),
  }))
  return threads
}

/**
 * The reply of a thread to a question, whoever's turn it is before. Throws `AnsweringTooLong`, and
 * the reason of `gone` where nobody waits any more.
 */
export async function replyTo(task: AnswerTask, asking: Asking): Promise<Replied> {
  if (task.name !== 'ready' && !begin().some(({ holds }) => holds.has(task.revisionId))) {
    const ready: AnswerTask = { ...task, name: 'ready', asked: {} }
    const read = await queued(ready, { asker: asking.asker })
    if ('failed' in read) return read
  }
  return queued(task, asking)
}

function queued(task: AnswerTask, { asker, gone, goesOn = false }: Asking): Promise<Replied> {
  const reads = task.name === 'ready'
  const { SALT_TRAIL_READING_SECONDS, SALT_TRAIL_ANSWER_SECONDS } = config()
  return new Promise((resolve, reject) => {
    const question: Question = {
      ...{ asker, revisionId: task.revisionId, since: performance.now(), goesOn, task, gone },
      ...{ seconds: reads ? SALT_TRAIL_READING_SECONDS : SALT_TRAIL_ANSWER_SECONDS },
      ...{ resolve, reject },
    }
    gone?.addEventListener('abort', () => {
      if (!waiting.includes(question)) return
      waiting = waiting.filter((one) => one !== question)
      reject(gone.reason as Error)
    })
    waiting.push(question)
    takeTurns()
  })
}

/** Gives idle threads what is next, and looks again when somebody has waited long enough. */
function takeTurns(): void {
  const all = begin()
  clearTimeout(timer)
  const readingTime = (revisionId: number): number => readingTimes.get(revisionId) ?? UNKNOWN
  for (;;) {
    const turn = nextTurn(all, waiting, {
      now: performance.now(),
      readingTime,
      lastServed: (asker) => lastServed.get(asker) ?? 0,
    })
    if (!turn) break
    waiting = waiting.filter((one) => one !== turn.question)
    lastServed.delete(turn.question.asker)
    lastServed.set(turn.question.asker, ++served)
    if (lastServed.size > 1_000) lastServed.delete(lastServed.keys().next().value!)
    void run(all[turn.thread]!, turn.question).finally(takeTurns)
  }
  const now = performance.now()
  const ends = waiting
    .map(({ since, revisionId }) => since + readingTime(revisionId) - now)
    .filter((left) => left > 0)
  if (ends.length > 0) timer = setTimeout(takeTurns, Math.min(...ends) + 1).unref()
}

async function run(thread: Thread, question: Question): Promise<void> {
  const { task, seconds, gone } = question
  thread.asker = question.asker
  thread.holds = new Set([...thread.holds, task.revisionId])
  const end = new AbortController()
  let grace: NodeJS.Timeout | undefined
  const leave = (): void => {
    grace = setTimeout(() => end.abort(), GRACE)
  }
  gone?.addEventListener('abort', leave, { once: true })
  const deadline = setTimeout(() => end.abort(), seconds * 1_000)
  try {
    const replied = (await thread.pool.run(task, { signal: end.signal })) as Replied
    thread.holds = new Set(replied.holds)
    if (replied.reading !== null) {
      readingTimes.delete(task.revisionId)
      readingTimes.set(task.revisionId, replied.reading)
      if (readingTimes.size > 1_000) readingTimes.delete(readingTimes.keys().next().value!)
    }
    question.resolve(replied)
  } catch (error) {
    // What was thrown is told by the thread itself; a thread that ended holds nothing any more.
    thread.holds = new Set()
    question.reject(
      end.signal.aborted && !gone?.aborted ? new AnsweringTooLong(seconds) : (error as Error),
    )
  } finally {
    clearTimeout(deadline)
    clearTimeout(grace)
    gone?.removeEventListener('abort', leave)
    thread.asker = null
  }
}

export async function closeThreads(): Promise<void> {
  clearTimeout(timer)
  const ended = threads ?? []
  threads = undefined
  for (const { reject } of waiting.splice(0)) reject(new Error('the server was stopped'))
  await Promise.all(ended.map(({ pool }) => pool.destroy()))
}
