import { route } from '../../../../http/route'
import { stopAnalysis } from '../../../../analysis/runs'
import { statusOf } from '../../../../analysis/status'
import { revisionOf } from '../../../../http/revision'

/** Stops what is running; an analysis that is done stays. */
export default route('/api/estates/{estate}/{revision}/analysis', 'delete', async (event) => {
  const { db, id, number } = await revisionOf(event)
  await stopAnalysis(id)
  return statusOf(db, id, number)
})
