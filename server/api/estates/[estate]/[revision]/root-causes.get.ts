import { route } from '../../../../http/route'
import { readRootCauses } from '../../../../analysis/found'
import { analysedRevision, sendList } from '../../../../http/analysed'
import { query } from '../../../../http/respond'
import { rootCausesQuery } from '../../../../../contract/findings'

export default route('/api/estates/{estate}/{revision}/root-causes', 'get', async (event) => {
  const wanted = query(event, rootCausesQuery)
  const { db, id, number } = await analysedRevision(event)
  const { total, findings, rootCauses } = await readRootCauses(db, id, wanted)
  return sendList(event, { revision: number, total, findings }, 'rootCauses', rootCauses)
})
