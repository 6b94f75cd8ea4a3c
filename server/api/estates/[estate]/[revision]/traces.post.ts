import { answer } from '../../../../answers/ask'
import { body } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { questionsBody } from '../../../../contract/schemas'

export default defineEventHandler(async (event) => {
  const questions = await body(event, questionsBody)
  const { id } = await revisionOf(event)
  return answer(event, 'traces', id, { questions })
})
