import { answer } from '../../../../answers/ask'
import { query } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { objectQuery } from '../../../../../contract/objects'

export default defineEventHandler(async (event) => {
  const asked = query(event, objectQuery)
  const { id } = await revisionOf(event)
  return answer(event, 'object', id, asked)
})
