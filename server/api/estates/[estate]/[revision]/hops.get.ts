import { answer } from '../../../../answers/ask'
import { query } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { subnetQuery } from '../../../../contract/view-schemas'

export default defineEventHandler(async (event) => {
  const { subnet } = query(event, subnetQuery)
  const { id } = await revisionOf(event)
  return answer(event, 'hops', id, { subnet })
})
