import { sessionOf } from '../../access/entering'
import { endOwnSession } from '../../access/sessions'
import { database } from '../../database/client'
import { route } from '../../http/route'

export default route('/api/session', 'delete', async (event, { sessionId }) => {
  await endOwnSession(database(), event, sessionId!)
  return sessionOf(database(), event, null)
})
