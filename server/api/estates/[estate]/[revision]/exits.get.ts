import { route } from '../../../../http/route'
import { readExits } from '../../../../analysis/results'
import { analysedRevision, sendList } from '../../../../http/analysed'
import { query } from '../../../../http/respond'
import { exitsQuery } from '../../../../../contract/exits'

export default route('/api/estates/{estate}/{revision}/exits', 'get', async (event) => {
  const span = query(event, exitsQuery)
  const { db, id, number, milliseconds } = await analysedRevision(event)
  const { total, rows } = await readExits(db, id, span)
  return sendList(event, { revision: number, milliseconds, total }, 'rows', rows)
})
