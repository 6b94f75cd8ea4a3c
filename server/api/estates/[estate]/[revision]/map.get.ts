import { estateGraph } from '@salt-trail/core'
import { query } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { mapQuery } from '../../../../contract/view-schemas'
import { modelOf } from '../../../../estates/models'

export default defineEventHandler(async (event) => {
  const { open } = query(event, mapQuery)
  const { db, id, number } = await revisionOf(event)
  const { model } = await modelOf(db, id)
  return { revision: number, ...estateGraph(model, open) }
})
