import { idParams } from '../../../../contract/access'
import { endSessions } from '../../../access/sessions'
import { database } from '../../../database/client'
import { params, refusal } from '../../../http/respond'
import { route } from '../../../http/route'

export default route('/api/account/sessions/{id}', 'delete', async (event, asker) => {
  const { id } = params(event, idParams)
  const ended = await endSessions(database(), asker.id, { id: Number(id) })
  if (ended === 0) throw refusal(404, 'no-such-session', `you have no session ${id}`)
  return { ended }
})
