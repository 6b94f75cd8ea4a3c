import { route } from '../../../../http/route'
import { readExpectations } from '../../../../analysis/results'
import { analysedRevision, sendList } from '../../../../http/analysed'

export default route('/api/estates/{estate}/{revision}/expectations', 'get', async (event) => {
  const { db, id, number } = await analysedRevision(event)
  return sendList(event, { revision: number }, 'expectations', await readExpectations(db, id))
})
