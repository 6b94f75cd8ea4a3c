import { send, setResponseHeader, setResponseStatus, type H3Error, type H3Event } from 'h3'
import { isAway, isDiskFull } from '../database/failure'
import { log } from '../log'

interface Told {
  readonly status: number
  readonly code: string
  readonly message: string
  readonly more?: object
}

const DISK_FULL =
  'the disk that the database lies on is full: nothing was saved. Free some space there, then save again'
const AWAY = 'the database is not there at the moment: nothing was saved. Ask again in a while'

/**
 * What is told of an error. What nobody foresaw is a sentence with the id of its request; what is
 * known of it stands in the log under that id, and nowhere else: it may hold names of estates.
 */
export function toldOf(error: H3Error, id: string): Told {
  const { statusCode: status, message, unhandled, fatal } = error
  if (!unhandled && !fatal) {
    const { code, ...more } = (error.data ?? {}) as { code?: string }
    return { status, code: code ?? (status === 404 ? 'no-such-route' : 'refused'), message, more }
  }
  if (isDiskFull(error)) return { status: 507, code: 'disk-full', message: DISK_FULL }
  if (isAway(error)) return { status: 503, code: 'no-database', message: AWAY }
  return {
    status: 500,
    code: 'unforeseen',
    message: `the server could not do this, for a reason that nobody foresaw (error ${id}); its log says more under that id`,
    more: { id },
  }
}

/** Errors of the API are told as JSON, all of the same form; those of pages are left to others. */
export default function errorHandler(error: H3Error, event: H3Event): Promise<void> | undefined {
  if (!event.path.startsWith('/api/') || event.handled) return undefined
  const id = String(event.context.requestId)
  const { status, code, message, more } = toldOf(error, id)
  if (status >= 500 && (error.unhandled || error.fatal))
    log.error(
      { id, code, method: event.method, path: event.path.split('?')[0], err: error },
      message,
    )
  setResponseStatus(event, status)
  setResponseHeader(event, 'content-type', 'application/json')
  const data = { code, message, ...more }
  return send(event, JSON.stringify({ statusCode: status, message, data }))
}
