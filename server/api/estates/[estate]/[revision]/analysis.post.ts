import { route } from '../../../../http/route'
import { analyseSoon } from '../../../../analysis/runs'
import { statusOf } from '../../../../analysis/status'
import { revisionOf } from '../../../../http/revision'

/** Once more, where it failed or was stopped. */
export default route('/api/estates/{estate}/{revision}/analysis', 'post', async (event) => {
  const { db, id, number } = await revisionOf(event)
  analyseSoon(db, id)
  return statusOf(db, id, number)
})
