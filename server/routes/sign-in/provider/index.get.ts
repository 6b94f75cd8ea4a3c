import { beginAtProvider } from '../../../access/provider'
import { database } from '../../../database/client'
import { log } from '../../../log'

/** Leads to the sign-in provider; where that does not answer, back to where one signs in. */
export default defineEventHandler(async (event) => {
  const { to } = getQuery(event)
  // A place of this application alone: a link must not lead elsewhere.
  const wanted = typeof to === 'string' && /^\/(?![/\\])/.test(to) ? to.slice(0, 2_000) : '/'
  try {
    return await sendRedirect(event, await beginAtProvider(database(), event, wanted))
  } catch (error) {
    log.warn({ id: event.context.requestId, err: error }, 'the sign-in provider does not answer')
    return sendRedirect(event, '/sign-in?refused=provider')
  }
})
