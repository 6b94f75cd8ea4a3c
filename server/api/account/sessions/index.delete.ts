import { endSessions } from '../../../access/sessions'
import { database } from '../../../database/client'
import { route } from '../../../http/route'

export default route('/api/account/sessions', 'delete', async (_event, { id, sessionId }) => ({
  ended: await endSessions(database(), id, { butId: sessionId }),
}))
