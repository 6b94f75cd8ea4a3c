import { Tinypool } from 'tinypool'
import { workerFile } from '../files'
import { nextTurn, type Waiting } from './turns'

/** A thread, with what it has and does. Each is a pool of one, which makes it anew if it ends. */
interface Thread {
  readonly pool: Tinypool
  asker: string | null
  holds: ReadonlySet<number>
}

/** Who asks, until when he does, and how long the work may take. */
export interface Asking {
  readonly asker: string
  readonly seconds: number
  readonly gone?: AbortSignal | undefined
  /** The revision whose model it needs. */
  readonly revisionId?: number
  /** Whether what is known so far lies with the thread that holds the revision. */
  readonly goesOn?: boolean
}

interface Question<T, R> extends Waiting {
  readonly task: T
  readonly seconds: number
  readonly gone: AbortSignal | undefined
  readonly resolve: (replied: R) => void
  readonly reject: (error: unknown) => void
}

/** What is known of a thread after a reply: the models it holds, and how long reading one took. */
export interface AfterReply {
  readonly holds: readonly number[]
  readonly reading: number | null
}

/** Some work took longer than it may; its thread was ended. */
export class TooLong extends Error {
  constructor(readonly seconds: number) {
    super(`the work took more than ${seconds} seconds`)
  }
}

export interface FairThreads<T, R> {
  /**
   * The reply of a thread, whoever's turn it is before. Throws `TooLong`, and the reason of `gone`
   * where nobody waits any more.
   */
  readonly run: (task: T, asking: Asking) => Promise<R>
  /** Whether a thread holds the model of a revision, or is reading it. */
  readonly isHeld: (revisionId: number) => boolean
  readonly close: () => Promise<void>
}

/** What nobody waits for any more goes on for so long, since a new thread would read all again. */
const GRACE = 1_000
/** Of a revision that is being read for the first time: it is waited for. */
const UNKNOWN = 10_000
/** So many askers, and revisions, are remembered. */
const MOST_KNOWN = 1_000

/** Notes what was known last of each of some things, and forgets those that were noted first. */
function note<K, V>(known: Map<K, V>, key: K, value: V): void {
  known.delete(key)
  known.set(key, value)
  if (known.size > MOST_KNOWN) known.delete(known.keys().next().value!)
}

/** Threads that do one thing at a time each, in fair turns: nobody has all of them. */
export function fairThreads<T, R>({
  threads: count,
  worker,
  limits,
  after,
}: {
  threads: number
  worker: Parameters<typeof workerFile>[0]
  limits: { maxOldGenerationSizeMb: number; maxYoungGenerationSizeMb: number }
  after?: (replied: R) => AfterReply
}): FairThreads<T, R> {
  const threads: Thread[] = Array.from({ length: count }, () => ({
    pool: new Tinypool({
      filename: workerFile(worker),
      minThreads: 0,
      maxThreads: 1,
      idleTimeout: 2 ** 31 - 1,
      resourceLimits: limits,
    }),
    asker: null,
    holds: new Set<number>(),
  }))
  let waiting: Question<T, R>[] = []
  let served = 0
  let timer: NodeJS.Timeout | undefined
  const lastServed = new Map<string, number>()
  const readingTimes = new Map<number, number>()

  /** Gives idle threads what is next, and looks again when somebody has waited long enough. */
  function takeTurns(): void {
    clearTimeout(timer)
    const readingTime = (revisionId: number): number => readingTimes.get(revisionId) ?? UNKNOWN
    for (;;) {
      const turn = nextTurn(threads, waiting, {
        now: performance.now(),
        readingTime,
        lastServed: (asker) => lastServed.get(asker) ?? 0,
      })
      if (!turn) break
      const { question } = turn
      waiting = waiting.filter((one) => one !== question)
      note(lastServed, question.asker, ++served)
      void work(threads[turn.thread]!, question).finally(takeTurns)
    }
    const now = performance.now()
    const ends = waiting
      .map(({ since, revisionId }) =>
        revisionId === null ? 0 : since + readingTime(revisionId) - now,
      )
      .filter((left) => left > 0)
    if (ends.length > 0) timer = setTimeout(takeTurns, Math.min(...ends) + 1).unref()
  }

  async function work(thread: Thread, question: Question<T, R>): Promise<void> {
    const { task, seconds, gone, revisionId } = question
    thread.asker = question.asker
    if (revisionId !== null) thread.holds = new Set([...thread.holds, revisionId])
    const end = new AbortController()
    let grace: NodeJS.Timeout | undefined
    const leave = (): void => {
      grace = setTimeout(() => end.abort(), GRACE)
    }
    gone?.addEventListener('abort', leave, { once: true })
    const deadline = setTimeout(() => end.abort(), seconds * 1_000)
    // A thread that dies before it takes the task up leaves it in the queue of its pool.
    let early: unknown
    const died = (error: unknown): void => {
      early = error
      end.abort()
    }
    thread.pool.once('error', died)
    try {
      const replied = (await thread.pool.run(task, { signal: end.signal })) as R
      const { holds, reading } = after?.(replied) ?? { holds: [], reading: null }
      thread.holds = new Set(holds)
      if (reading !== null && revisionId !== null) note(readingTimes, revisionId, reading)
      question.resolve(replied)
    } catch (error) {
      // A thread that ended holds nothing any more.
      thread.holds = new Set()
      if (early !== undefined) question.reject(early)
      else question.reject(end.signal.aborted && !gone?.aborted ? new TooLong(seconds) : error)
    } finally {
      clearTimeout(deadline)
      clearTimeout(grace)
      gone?.removeEventListener('abort', leave)
      thread.pool.off('error', died)
      thread.asker = null
    }
  }

  const run = (task: T, { asker, seconds, gone, revisionId, goesOn = false }: Asking): Promise<R> =>
    new Promise((resolve, reject) => {
      const question: Question<T, R> = {
        ...{ asker, revisionId: revisionId ?? null, since: performance.now(), goesOn },
        ...{ task, seconds, gone, resolve, reject },
      }
      if (gone?.aborted) return reject(gone.reason as Error)
      gone?.addEventListener('abort', () => {
        if (!waiting.includes(question)) return
        waiting = waiting.filter((one) => one !== question)
        reject(gone.reason as Error)
      })
      waiting.push(question)
      takeTurns()
    })

  async function close(): Promise<void> {
    clearTimeout(timer)
    for (const { reject } of waiting.splice(0)) reject(new Error('the server was stopped'))
    await Promise.all(threads.map(({ pool }) => pool.destroy()))
  }
  return { run, close, isHeld: (id) => threads.some(({ holds }) => holds.has(id)) }
}
