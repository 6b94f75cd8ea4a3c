import { waysInOf } from '@salt-trail/core'
import { subnetOf } from '../../../../estates/subnet'

export default defineEventHandler(async (event) => {
  const { model, memo, subnet } = await subnetOf(event)
  return waysInOf(model, subnet, memo)
})
