import { route } from '../../../../http/route'
import { answer } from '../../../../answers/ask'
import { body } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { proveBody } from '../../../../../contract/requests'

export default route('/api/estates/{estate}/{revision}/prove', 'post', async (event) => {
  const { text } = await body(event, proveBody)
  const { id } = await revisionOf(event)
  return answer(event, 'prove', id, { written: text })
})
