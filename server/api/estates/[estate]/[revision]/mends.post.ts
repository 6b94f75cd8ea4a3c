import { answer } from '../../../../answers/ask'
import { body } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { mendsBody } from '../../../../../contract/requests'

export default defineEventHandler(async (event) => {
  const { stops = false, ...question } = await body(event, mendsBody)
  const { id } = await revisionOf(event)
  return answer(event, 'mends', id, { question, stops })
})
