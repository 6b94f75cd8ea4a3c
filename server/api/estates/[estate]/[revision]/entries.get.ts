import { route } from '../../../../http/route'
import { answer } from '../../../../answers/ask'
import { query } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { entriesQuery } from '../../../../../contract/exits'

export default route('/api/estates/{estate}/{revision}/entries', 'get', async (event) => {
  const { subnets } = query(event, entriesQuery)
  const { id, number } = await revisionOf(event)
  return answer(event, 'entries', id, { revision: number, subnets })
})
