import { readHistory } from '../../../analysis/history'
import { engine } from '../../../engine'
import { params, refusal } from '../../../http/respond'
import { estateParams } from '../../../../contract/requests'
import { database } from '../../../database/client'

export default defineEventHandler(async (event) => {
  const { estate } = params(event, estateParams)
  const history = await readHistory(database(), estate, engine())
  if (!history) throw refusal(404, 'no-such-estate', `there is no estate "${estate}"`)
  return history
})
