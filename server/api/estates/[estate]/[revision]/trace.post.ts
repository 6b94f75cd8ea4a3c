import { route } from '../../../../http/route'
import { answer } from '../../../../answers/ask'
import { body } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { questionBody } from '../../../../../contract/requests'

export default route('/api/estates/{estate}/{revision}/trace', 'post', async (event) => {
  const question = await body(event, questionBody)
  const { id } = await revisionOf(event)
  return answer(event, 'trace', id, { question })
})
