import { route } from '../../../../http/route'
import { answer } from '../../../../answers/ask'
import { query } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { behindQuery } from '../../../../../contract/exposure'

export default route('/api/estates/{estate}/{revision}/behind', 'get', async (event) => {
  const asked = query(event, behindQuery)
  const { id } = await revisionOf(event)
  return answer(event, 'behind', id, asked)
})
