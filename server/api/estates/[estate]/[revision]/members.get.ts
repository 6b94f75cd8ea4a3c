import { destinationsOf, exitsTo, hopsOf, membersOf } from '@salt-trail/core'
import { query, refusal } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { membersQuery } from '../../../../contract/schemas'
import { modelOf } from '../../../../estates/models'

/** What a column of the matrix opens into, for the rows in sight: computed when it is asked for. */
export default defineEventHandler(async (event) => {
  const { column, subnets: wanted } = query(event, membersQuery)
  const { db, id, number } = await revisionOf(event)
  const { model, memo } = await modelOf(db, id)
  const members = membersOf(model, column)
  const rows = wanted.map((one) => {
    const subnet = model.subnets[model.index.subnets.get(one) ?? -1]
    if (!subnet) throw refusal(404, 'no-such-subnet', `there is no subnet "${one}" in this revision`)
    const tables = hopsOf(model, subnet, memo)
    return { subnet: one, cells: members.map((member) => exitsTo(model, subnet, tables, column, destinationsOf(model, subnet, column, member), memo)) }
  })
  return { revision: number, column, members, rows }
})
