import { isRefusal, mendsOf } from '@salt-trail/core'
import { body, refusal } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { questionBody } from '../../../../contract/schemas'
import { modelOf } from '../../../../estates/models'

/** What would make a question work, fault by fault. */
export default defineEventHandler(async (event) => {
  const question = await body(event, questionBody)
  const { db, id } = await revisionOf(event)
  const { model } = await modelOf(db, id)
  const plan = mendsOf(model, question)
  if (isRefusal(plan)) throw refusal(422, plan.code, plan.message, { part: plan.part, candidates: plan.candidates })
  return plan
})
