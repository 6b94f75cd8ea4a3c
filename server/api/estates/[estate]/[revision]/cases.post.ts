import { route } from '../../../../http/route'
import { answer } from '../../../../answers/ask'
import { body } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { casesBody } from '../../../../../contract/requests'

export default route('/api/estates/{estate}/{revision}/cases', 'post', async (event) => {
  const question = await body(event, casesBody)
  const { id } = await revisionOf(event)
  return answer(event, 'cases', id, { question })
})
