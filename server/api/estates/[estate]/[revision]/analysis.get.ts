import { route } from '../../../../http/route'
import { analyseSoon, stateOf } from '../../../../analysis/runs'
import { statusOf } from '../../../../analysis/status'
import { revisionOf } from '../../../../http/revision'

/** A revision that was never analysed, or by an older version, is now. */
export default route('/api/estates/{estate}/{revision}/analysis', 'get', async (event) => {
  const { db, id, number } = await revisionOf(event)
  if ((await stateOf(db, id)).state === 'none') analyseSoon(db, id)
  return statusOf(db, id, number)
})
