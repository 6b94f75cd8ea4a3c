import { route } from '../../../../http/route'
import { answer } from '../../../../answers/ask'
import { query } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { exposureQuery } from '../../../../../contract/exposure'

export default route('/api/estates/{estate}/{revision}/exposure', 'get', async (event) => {
  const asked = query(event, exposureQuery)
  const { id, number } = await revisionOf(event)
  return answer(event, 'exposure', id, { revision: number, ...asked })
})
