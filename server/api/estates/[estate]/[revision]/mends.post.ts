import { answer } from '../../../../answers/ask'
import { body } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { mendsBody } from '../../../../contract/schemas'

export default defineEventHandler(async (event) => {
  const { stops = false, ...question } = await body(event, mendsBody)
  const { id } = await revisionOf(event)
  return answer(event, 'mends', id, { question, stops })
})
