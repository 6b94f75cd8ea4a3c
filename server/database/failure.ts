/** What PostgreSQL calls a full disk (its error codes, class 53). */
const DISK_FULL = '53100'

/** The failure under those that only say which statement failed. */
function innermost(error: unknown): unknown {
  const cause = error instanceof Error ? error.cause : undefined
  return cause === undefined ? error : innermost(cause)
}

/** What went wrong in a sentence, without the statement and its values, which may be very long. */
export function failureMessage(error: unknown): string {
  const inner = innermost(error)
  return inner instanceof Error ? inner.message : String(inner)
}

/**
 * What PostgreSQL and the network say of a database that is stopped, starting, or no longer there.
 */
const AWAY = new Set([
  '57P01',
  '57P02',
  '57P03',
  '08006',
  'ECONNREFUSED',
  'ECONNRESET',
  'EPIPE',
  'ENOENT',
])

/**
 * What the client says, without a code, of a connection that was lost: while it waited for an
 * answer, or before it asked.
 */
const LOST = /^(Connection terminated|Client has encountered a connection error|Client was closed)/

/** Whether something failed because the database is not there at the moment. */
export function isAway(error: unknown): boolean {
  const inner = innermost(error)
  return (
    inner instanceof Error &&
    (AWAY.has((inner as { code?: string }).code ?? '') || LOST.test(inner.message))
  )
}

/** Whether something failed because the disk that the database lies on is full. */
export const isDiskFull = (error: unknown): boolean =>
  (innermost(error) as { code?: string } | null)?.code === DISK_FULL
