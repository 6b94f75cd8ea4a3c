import { answer } from '../../../../answers/ask'
import { body } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { questionBody } from '../../../../contract/schemas'

export default defineEventHandler(async (event) => {
  const question = await body(event, questionBody)
  const { id } = await revisionOf(event)
  return answer(event, 'mends', id, { question })
})
