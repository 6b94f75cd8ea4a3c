import { route } from '../../../../http/route'
import { answer } from '../../../../answers/ask'
import { revisionOf } from '../../../../http/revision'

export default route('/api/estates/{estate}/{revision}/space', 'get', async (event) => {
  const { id, number } = await revisionOf(event)
  return answer(event, 'space', id, { revision: number })
})
