import { route } from '../../../../http/route'
import type { Finding } from '@salt-trail/core'
import { readIdle } from '../../../../analysis/results'
import { answer } from '../../../../answers/ask'
import { analysedRevision } from '../../../../http/analysed'
import { body } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { moveBody } from '../../../../../contract/moves'

/** Cleaning up takes what the analysis found idle; every other move needs the model alone. */
export default route('/api/estates/{estate}/{revision}/moves', 'post', async (event) => {
  const move = await body(event, moveBody)
  if (move.move !== 'clean-up') {
    const { id } = await revisionOf(event)
    return answer(event, 'move', id, { move, findings: [] })
  }
  const { db, id } = await analysedRevision(event)
  const findings = (await readIdle(db, id)).map((text) => JSON.parse(text) as Finding)
  return answer(event, 'move', id, { move, findings })
})
