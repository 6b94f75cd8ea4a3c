import { answer } from '../../../../answers/ask'
import { query } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { entriesQuery } from '../../../../contract/view-schemas'

export default defineEventHandler(async (event) => {
  const { subnets } = query(event, entriesQuery)
  const { id, number } = await revisionOf(event)
  return answer(event, 'entries', id, { revision: number, subnets })
})
