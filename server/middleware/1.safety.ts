import { refusal } from '../http/respond'
import { limits } from '../estates/limits'

/** JSON escapes may double a file's text on its way. */
const maxBody = (): number => 2 * limits().bytes

/**
 * What holds for every request: requests that change something come from this application, bodies
 * are bounded.
 */
export default defineEventHandler((event) => {
  setResponseHeaders(event, {
    'x-content-type-options': 'nosniff',
    'referrer-policy': 'same-origin',
    'x-frame-options': 'DENY',
  })
  if (!event.path.startsWith('/api/')) return
  setResponseHeader(event, 'cache-control', 'no-store')
  if (event.method === 'GET' || event.method === 'HEAD') return
  const origin = getRequestHeader(event, 'origin')
  if (
    origin !== undefined &&
    !(URL.canParse(origin) && new URL(origin).host === getRequestHeader(event, 'host'))
  ) {
    throw refusal(403, 'other-origin', 'the request comes from a page of another address')
  }
  // A deletion has no body, and no page elsewhere may send one without being let.
  if (event.method === 'DELETE') return
  if (!(getRequestHeader(event, 'content-type') ?? '').startsWith('application/json')) {
    throw refusal(415, 'not-json', 'send the body as application/json')
  }
  const length = Number(getRequestHeader(event, 'content-length') ?? Number.NaN)
  if (!Number.isFinite(length))
    throw refusal(411, 'no-length', 'say the length of the body in content-length')
  if (length > maxBody())
    throw refusal(413, 'limit-bytes', `the body is larger than ${maxBody()} bytes (limit: bytes)`)
})
