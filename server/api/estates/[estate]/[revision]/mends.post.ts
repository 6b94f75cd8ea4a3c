import { isRefusal, mendsOf, trace } from '@salt-trail/core'
import { body, refusal } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { questionBody } from '../../../../contract/schemas'
import { analysisOf } from '../../../../estates/models'

/** For every branch of a question what would mend its faults, in the order of the branches of its trace. */
export default defineEventHandler(async (event) => {
  const question = await body(event, questionBody)
  const { db, id } = await revisionOf(event)
  const { model } = await analysisOf(db, id)
  const answer = trace(model, question)
  if (isRefusal(answer)) throw refusal(422, answer.code, answer.message, { part: answer.part, candidates: answer.candidates })
  return (answer.branches.length > 0 ? answer.branches : [answer]).map((branch) => mendsOf(model, branch))
})
