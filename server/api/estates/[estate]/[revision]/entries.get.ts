import { entriesOf } from '@salt-trail/core'
import { query, refusal } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { entriesQuery } from '../../../../contract/view-schemas'
import { modelOf } from '../../../../estates/models'

/** The matrix turned to entering, for the rows in sight: computed when it is asked for. */
export default defineEventHandler(async (event) => {
  const { subnets: wanted } = query(event, entriesQuery)
  const { db, id, number } = await revisionOf(event)
  const { model, memo } = await modelOf(db, id)
  const rows = wanted.map((one) => {
    const subnet = model.subnets[model.index.subnets.get(one) ?? -1]
    if (!subnet) throw refusal(404, 'no-such-subnet', `there is no subnet "${one}" in this revision`)
    return entriesOf(model, subnet, memo)
  })
  return { revision: number, rows }
})
