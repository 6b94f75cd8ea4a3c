import { route } from '../../../../http/route'
import { answer } from '../../../../answers/ask'
import { query } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { subnetQuery } from '../../../../../contract/subnets'

export default route('/api/estates/{estate}/{revision}/hops', 'get', async (event) => {
  const { subnet } = query(event, subnetQuery)
  const { id } = await revisionOf(event)
  return answer(event, 'hops', id, { subnet })
})
