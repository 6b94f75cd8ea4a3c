import { spaceOf } from '@salt-trail/core'
import { revisionOf } from '../../../../contract/revision'
import { modelOf } from '../../../../estates/models'

export default defineEventHandler(async (event) => {
  const { db, id, number } = await revisionOf(event)
  const { model } = await modelOf(db, id)
  return { revision: number, networks: spaceOf(model) }
})
