import { idParams } from '../../../../contract/access'
import { endToken } from '../../../access/tokens'
import { database } from '../../../database/client'
import { params, refusal } from '../../../http/respond'
import { route } from '../../../http/route'

export default route('/api/account/tokens/{id}', 'delete', async (event, asker) => {
  const { id } = params(event, idParams)
  const ended = await endToken(database(), asker.id, Number(id))
  if (ended === 0) throw refusal(404, 'no-such-token', `you have no token ${id}`)
  return { ended }
})
