import { route } from '../../../../http/route'
import { answer } from '../../../../answers/ask'
import { query } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { objectsQuery } from '../../../../../contract/objects'

export default route('/api/estates/{estate}/{revision}/objects', 'get', async (event) => {
  const asked = query(event, objectsQuery)
  const { id } = await revisionOf(event)
  return answer(event, 'objects', id, asked)
})
