import { isRefusal, trace } from '@salt-trail/core'
import { body } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { questionsBody } from '../../../../contract/schemas'
import { modelOf } from '../../../../estates/models'

export default defineEventHandler(async (event) => {
  const questions = await body(event, questionsBody)
  const { db, id } = await revisionOf(event)
  const { model } = await modelOf(db, id)
  return questions.map((question) => {
    const answer = trace(model, question)
    return isRefusal(answer) ? { question, error: answer } : answer
  })
})
