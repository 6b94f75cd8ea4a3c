import { route } from '../../../../http/route'
import { proposalsBody } from '../../../../../contract/proposals'
import { body, refusal } from '../../../../http/respond'
import { revisionOf } from '../../../../http/revision'
import { whileAsked } from '../../../../http/while-asked'
import { proposalsOf, TooLong } from '../../../../proposals/proposals'

/** What would mend a finding, a root cause or a faulty question, tried against the whole estate. */
export default route('/api/estates/{estate}/{revision}/proposals', 'post', async (event) => {
  const asked = await body(event, proposalsBody)
  const { id } = await revisionOf(event)
  const wanted = 'finding' in asked || 'rootCause' in asked ? asked : { question: asked }
  const found = await proposalsOf(id, wanted, whileAsked(event)).catch((error: unknown) => {
    if (!(error instanceof TooLong)) throw error
    throw refusal(
      503,
      'too-long',
      'trying changes against the whole estate took too long; ask again, or use "salt-trail propose"',
    )
  })
  if (found === null) return null
  if ('refused' in found) {
    const { code, message, part, candidates } = found.refused
    throw refusal(422, code, message, { part, candidates })
  }
  if ('unknown' in found)
    throw refusal(404, 'no-such-finding', 'this revision has no such finding or root cause')
  return found
})
