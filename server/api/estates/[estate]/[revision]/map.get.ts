import { answer } from '../../../../answers/ask'
import { query } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { mapQuery } from '../../../../contract/view-schemas'

export default defineEventHandler(async (event) => {
  const { open } = query(event, mapQuery)
  const { id, number } = await revisionOf(event)
  return answer(event, 'map', id, { revision: number, open })
})
