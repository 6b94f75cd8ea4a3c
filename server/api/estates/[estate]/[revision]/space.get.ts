import { answer } from '../../../../answers/ask'
import { revisionOf } from '../../../../http/revision'

export default defineEventHandler(async (event) => {
  const { id, number } = await revisionOf(event)
  return answer(event, 'space', id, { revision: number })
})
