import { enter } from '../../../access/entering'
import { endAtProvider } from '../../../access/provider'
import { database } from '../../../database/client'
import { recorded } from '../../../http/route'
import { log } from '../../../log'

/** Where the provider sends people back to, with what proves who they are. */
export default defineEventHandler(async (event) => {
  const db = database()
  try {
    const to = await recorded(event, null, 'get /sign-in/provider/back', async () => {
      const { account, to } = await endAtProvider(db, event)
      if (!account) return null
      await enter(db, event, account, 'by the provider')
      return to
    })
    return await sendRedirect(event, to ?? '/sign-in?refused=uninvited')
  } catch (error) {
    log.warn({ id: event.context.requestId, err: error }, 'a sign-in by the provider failed')
    return sendRedirect(event, '/sign-in?refused=provider')
  }
})
