import { waysInOf } from '@salt-trail/core'
import { subnetOf } from '../../../../estates/subnet'

export default defineEventHandler(async (event) => {
  const { model, subnet } = await subnetOf(event)
  return waysInOf(model, subnet)
})
