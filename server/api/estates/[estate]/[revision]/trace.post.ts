import { isRefusal, trace } from '@salt-trail/core'
import { body, refusal } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { questionBody } from '../../../../contract/schemas'
import { modelOf } from '../../../../estates/models'

export default defineEventHandler(async (event) => {
  const question = await body(event, questionBody)
  const { db, id } = await revisionOf(event)
  const { model } = await modelOf(db, id)
  const answer = trace(model, question)
  if (isRefusal(answer)) throw refusal(422, answer.code, answer.message, { part: answer.part, candidates: answer.candidates })
  return answer
})
