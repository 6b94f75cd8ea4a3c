import { route } from '../../../../http/route'
import { readFindings } from '../../../../analysis/found'
import { analysedRevision, sendList } from '../../../../http/analysed'
import { query } from '../../../../http/respond'
import { findingsQuery } from '../../../../../contract/findings'

export default route('/api/estates/{estate}/{revision}/findings', 'get', async (event) => {
  const wanted = query(event, findingsQuery)
  const { db, id, number, milliseconds } = await analysedRevision(event)
  const { total, groups, findings } = await readFindings(db, id, wanted)
  return sendList(event, { revision: number, milliseconds, total, groups }, 'findings', findings)
})
