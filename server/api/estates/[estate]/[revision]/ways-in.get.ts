import { answer } from '../../../../answers/ask'
import { query } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { subnetQuery } from '../../../../../contract/subnets'

export default defineEventHandler(async (event) => {
  const { subnet } = query(event, subnetQuery)
  const { id } = await revisionOf(event)
  return answer(event, 'waysIn', id, { subnet })
})
