import { answer } from '../../../../answers/ask'
import { body } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { proveBody } from '../../../../contract/schemas'

export default defineEventHandler(async (event) => {
  const { text } = await body(event, proveBody)
  const { id } = await revisionOf(event)
  return answer(event, 'prove', id, { written: text })
})
