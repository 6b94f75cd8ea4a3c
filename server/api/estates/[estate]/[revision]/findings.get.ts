import { readFindings } from '../../../../analysis/results'
import { analysedRevision, sendList } from '../../../../contract/analysed'
import { query } from '../../../../contract/respond'
import { findingsQuery } from '../../../../contract/view-schemas'

export default defineEventHandler(async (event) => {
  const wanted = query(event, findingsQuery)
  const { db, id, number, milliseconds } = await analysedRevision(event)
  const { total, findings } = await readFindings(db, id, wanted)
  return sendList(event, { revision: number, milliseconds, total }, 'findings', findings)
})
