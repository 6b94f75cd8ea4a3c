import { destinationsOf, entriesFrom, exitsTo, hopsOf, membersOf } from '@salt-trail/core'
import { query, refusal } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { membersQuery, MOST_COLUMNS_OPENED } from '../../../../contract/view-schemas'
import { modelOf } from '../../../../estates/models'

/** What a column of the matrix opens into, for the rows in sight: computed when it is asked for. */
export default defineEventHandler(async (event) => {
  const { column, subnets: wanted, members: named, turned } = query(event, membersQuery)
  const { db, id, number } = await revisionOf(event)
  const { model, memo } = await modelOf(db, id)
  const all = membersOf(model, column)
  const members = named ?? all.slice(0, MOST_COLUMNS_OPENED)
  const unknown = members.find((one) => !all.includes(one))
  if (unknown !== undefined) throw refusal(404, 'no-such-member', `"${unknown}" is no member of this column`)
  const rows = wanted.map((one) => {
    const subnet = model.subnets[model.index.subnets.get(one) ?? -1]
    if (!subnet) throw refusal(404, 'no-such-subnet', `there is no subnet "${one}" in this revision`)
    if (turned === 'entering') return { subnet: one, cells: entriesFrom(model, subnet, column, members, memo) }
    const tables = hopsOf(model, subnet, memo)
    return { subnet: one, cells: members.map((member) => exitsTo(model, subnet, tables, column, destinationsOf(model, subnet, column, member), memo)) }
  })
  return { revision: number, column, members, rows }
})
