import { stopAnalysis } from '../../../../analysis/runs'
import { statusOf } from '../../../../analysis/status'
import { revisionOf } from '../../../../http/revision'

/** Stops what is running; an analysis that is done stays. */
export default defineEventHandler(async (event) => {
  const { db, id, number } = await revisionOf(event)
  await stopAnalysis(id)
  return statusOf(db, id, number)
})
