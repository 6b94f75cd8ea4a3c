import type { QuestionPath, RevisionAnswer, RevisionPath } from './answers'

export type Query = Readonly<Record<string, string | number>>

/** A question to one revision. */
export interface Asked<P extends RevisionPath> {
  /** `/api/estates/SLUG/REVISION`. */
  readonly base: string
  readonly path: P
  readonly query?: Query
  readonly body?: P extends QuestionPath ? object : never
}

/** Asks a revision something. Throws as `$fetch` does; `failureText` says why in words. */
export const ask = <P extends RevisionPath>(
  { base, path, query, body }: Asked<P>,
  signal?: AbortSignal,
): Promise<RevisionAnswer<P>> =>
  $fetch<unknown>(`${base}/${path}`, {
    query,
    signal,
    ...(body === undefined ? {} : { method: 'POST', body }),
  }) as Promise<RevisionAnswer<P>>
