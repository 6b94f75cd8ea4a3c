import { readExpectations } from '../../../../analysis/results'
import { analysedRevision, sendList } from '../../../../http/analysed'

export default defineEventHandler(async (event) => {
  const { db, id, number } = await analysedRevision(event)
  return sendList(event, { revision: number }, 'expectations', await readExpectations(db, id))
})
