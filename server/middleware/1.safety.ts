import { refusal } from '../http/respond'
import { config } from '../config'
import { mostBytes } from '../http/body-limits'

/**
 * What holds for every request: requests that change something come from this application, bodies
 * are bounded.
 */
export default defineEventHandler((event) => {
  if (!event.path.startsWith('/api/')) return
  setResponseHeader(event, 'cache-control', 'no-store')
  if (event.method === 'GET' || event.method === 'HEAD') return
  const origin = getRequestHeader(event, 'origin')
  const own = config().SALT_TRAIL_ADDRESS ?? `http://${getRequestHeader(event, 'host')}`
  if (origin !== undefined && origin.toLowerCase() !== own.toLowerCase()) {
    throw refusal(403, 'other-origin', 'the request comes from a page of another address')
  }
  const length = Number(getRequestHeader(event, 'content-length') ?? Number.NaN)
  const most = mostBytes(getRequestURL(event).pathname)
  if (length > most)
    throw refusal(413, 'limit-bytes', `the body is larger than ${most} bytes (limit: bytes)`)
  // A deletion may have no body, and no page elsewhere may send one without being let.
  if (event.method === 'DELETE' && getRequestHeader(event, 'transfer-encoding') === undefined)
    return
  if (!(getRequestHeader(event, 'content-type') ?? '').startsWith('application/json')) {
    throw refusal(415, 'not-json', 'send the body as application/json')
  }
  if (!Number.isFinite(length))
    throw refusal(411, 'no-length', 'say the length of the body in content-length')
})
