import { route } from '../../../../http/route'
import { answer } from '../../../../answers/ask'
import { query } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { objectQuery } from '../../../../../contract/objects'

export default route('/api/estates/{estate}/{revision}/object', 'get', async (event) => {
  const asked = query(event, objectQuery)
  const { id } = await revisionOf(event)
  return answer(event, 'object', id, asked)
})
