import type { H3Event } from 'h3'

/** Aborted once whoever asked is gone, so that no more is computed for him. */
export function whileAsked(event: H3Event): AbortSignal {
  const gone = new AbortController()
  const { res } = event.node
  res.once('close', () => {
    if (!res.writableEnded) gone.abort()
  })
  return gone.signal
}

/** Whom a request counts for, where several ask at once. */
export const countsFor = (event: H3Event): string => String(event.context.asker?.id ?? '')
