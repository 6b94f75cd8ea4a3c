import { readExits } from '../../../../analysis/results'
import { analysedRevision, sendList } from '../../../../contract/analysed'
import { query } from '../../../../contract/respond'
import { exitsQuery } from '../../../../contract/view-schemas'

export default defineEventHandler(async (event) => {
  const span = query(event, exitsQuery)
  const { db, id, number, milliseconds } = await analysedRevision(event)
  const { total, rows } = await readExits(db, id, span)
  return sendList(event, { revision: number, milliseconds, total }, 'rows', rows)
})
