import { route } from '../../../../http/route'
import { answer } from '../../../../answers/ask'
import { query } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { onlookerQuery } from '../../../../../contract/views'

export default route('/api/estates/{estate}/{revision}/seen-as', 'get', async (event) => {
  const { to } = query(event, onlookerQuery)
  const { id, number } = await revisionOf(event)
  return answer(event, 'seenAs', id, { revision: number, to })
})
