import { route } from '../../../../http/route'
import { answer } from '../../../../answers/ask'
import { body } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { questionsBody } from '../../../../../contract/requests'

export default route('/api/estates/{estate}/{revision}/traces', 'post', async (event) => {
  const questions = await body(event, questionsBody)
  const { id } = await revisionOf(event)
  return answer(event, 'traces', id, { questions })
})
