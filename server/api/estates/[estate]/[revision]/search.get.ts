import { route } from '../../../../http/route'
import { answer } from '../../../../answers/ask'
import { query } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { searchQuery } from '../../../../../contract/objects'

export default route('/api/estates/{estate}/{revision}/search', 'get', async (event) => {
  const asked = query(event, searchQuery)
  const { id } = await revisionOf(event)
  return answer(event, 'search', id, asked)
})
