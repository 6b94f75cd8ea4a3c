import { answer } from '../../../../answers/ask'
import { query } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { onlookerQuery } from '../../../../contract/view-schemas'

export default defineEventHandler(async (event) => {
  const { to } = query(event, onlookerQuery)
  const { id, number } = await revisionOf(event)
  return answer(event, 'seenAs', id, { revision: number, to })
})
