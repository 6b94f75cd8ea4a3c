/** A thread, as far as it matters to whose turn it is. */
export interface ThreadState {
  /** Who asked what it is working on; null where it is idle. */
  readonly asker: string | null
  /** The revisions whose models it has, or is reading. */
  readonly holds: ReadonlySet<number>
}

/** A question that waits for a thread. */
export interface Waiting {
  readonly asker: string
  /** The revision whose model it needs; null where it needs none. */
  readonly revisionId: number | null
  /** When it came, in milliseconds. */
  readonly since: number
  /** Whether what is known so far lies with the thread that holds the revision. */
  readonly goesOn: boolean
}

export interface Turn<W extends Waiting> {
  readonly thread: number
  readonly question: W
}

/**
 * Whose turn it is, or null where nobody's is. Who has the fewest questions under way comes first,
 * and among those who was served the longest ago, and of his the oldest. One thread is kept free of
 * whoever has all the others. A question goes to a thread that holds its revision; where that one
 * is busy it waits for it as long as reading the revision takes, and goes to another one then: at
 * worst it waits twice as long as it had to.
 */
export function nextTurn<W extends Waiting>(
  threads: readonly ThreadState[],
  waiting: readonly W[],
  {
    now,
    readingTime,
    lastServed,
  }: {
    now: number
    /** How long reading a revision took, in milliseconds. */
    readingTime: (revisionId: number) => number
    /** When somebody was served last, by any clock that only goes on. */
    lastServed: (asker: string) => number
  },
): Turn<W> | null {
  const underWay = (asker: string): number =>
    threads.filter((thread) => thread.asker === asker).length
  const most = Math.max(1, threads.length - 1)
  const inOrder = waiting
    .filter(({ asker }) => underWay(asker) < most)
    .sort(
      (one, other) =>
        underWay(one.asker) - underWay(other.asker) ||
        lastServed(one.asker) - lastServed(other.asker) ||
        one.since - other.since,
    )
  for (const question of inOrder) {
    const thread = threadFor(threads, question, now - question.since, readingTime)
    if (thread !== null) return { thread, question }
  }
  return null
}

function threadFor(
  threads: readonly ThreadState[],
  { revisionId, goesOn }: Waiting,
  waited: number,
  readingTime: (revisionId: number) => number,
): number | null {
  const idle = [...threads.keys()].filter((one) => threads[one]!.asker === null)
  if (revisionId === null) return idle[0] ?? null
  const holder = idle.find((one) => threads[one]!.holds.has(revisionId))
  if (holder !== undefined) return holder
  const isHeld = threads.some(({ holds }) => holds.has(revisionId))
  if (isHeld && (goesOn || waited < readingTime(revisionId))) return null
  const [first, ...others] = idle
  if (first === undefined) return null
  const holding = (one: number): number => threads[one]!.holds.size
  return others.reduce((best, one) => (holding(one) < holding(best) ? one : best), first)
}
