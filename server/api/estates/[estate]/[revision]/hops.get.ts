import { hopsJson } from '@salt-trail/core'
import { subnetOf } from '../../../../estates/subnet'

export default defineEventHandler(async (event) => {
  const { analysis, subnet } = await subnetOf(event)
  return hopsJson(analysis.model, subnet, analysis.memo)
})
