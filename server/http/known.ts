import type { H3Event } from 'h3'
import { getRequestHeader, setResponseHeader, setResponseStatus } from 'h3'

/**
 * True where whoever asks has this state of the answer already, by its entity tag (RFC 9110,
 * 8.8.3): the answer is then 304 and empty.
 */
export function isKnown(event: H3Event, tag: string): boolean {
  setResponseHeader(event, 'etag', tag)
  const known = getRequestHeader(event, 'if-none-match')?.split(',') ?? []
  if (!known.some((one) => one.trim().replace(/^W\//, '') === tag)) return false
  setResponseStatus(event, 304)
  return true
}
