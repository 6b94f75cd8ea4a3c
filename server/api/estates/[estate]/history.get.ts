import { route } from '../../../http/route'
import { readHistory } from '../../../analysis/history'
import { engine } from '../../../engine'
import { params, refusal } from '../../../http/respond'
import { estateParams } from '../../../../contract/requests'
import { database } from '../../../database/client'

export default route('/api/estates/{estate}/history', 'get', async (event) => {
  const { estate } = params(event, estateParams)
  const history = await readHistory(database(), estate, engine())
  if (!history) throw refusal(404, 'no-such-estate', `there is no estate "${estate}"`)
  return history
})
