import { route } from '../../../../http/route'
import { answer } from '../../../../answers/ask'
import { query } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { mapQuery } from '../../../../../contract/views'

export default route('/api/estates/{estate}/{revision}/map', 'get', async (event) => {
  const { open } = query(event, mapQuery)
  const { id, number } = await revisionOf(event)
  return answer(event, 'map', id, { revision: number, open })
})
