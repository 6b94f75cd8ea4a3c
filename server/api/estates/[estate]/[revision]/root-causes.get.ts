import { readRootCauses } from '../../../../analysis/found'
import { analysedRevision, sendList } from '../../../../http/analysed'
import { query } from '../../../../http/respond'
import { rootCausesQuery } from '../../../../../contract/findings'

export default defineEventHandler(async (event) => {
  const wanted = query(event, rootCausesQuery)
  const { db, id, number } = await analysedRevision(event)
  const { total, findings, rootCauses } = await readRootCauses(db, id, wanted)
  return sendList(event, { revision: number, total, findings }, 'rootCauses', rootCauses)
})
