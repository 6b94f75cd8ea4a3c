import { route } from '../../../../http/route'
import { answer } from '../../../../answers/ask'
import { query } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { talksQuery } from '../../../../../contract/exposure'

export default route('/api/estates/{estate}/{revision}/talks', 'get', async (event) => {
  const asked = query(event, talksQuery)
  const { id } = await revisionOf(event)
  return answer(event, 'talks', id, asked)
})
