import { compareEstates, problemsJson, readEstate } from '@salt-trail/core'
import { body, params, refusal } from '../../../contract/respond'
import { checkBody, estateParams } from '../../../contract/schemas'
import { database } from '../../../database/client'
import { findRevision, readRevision } from '../../../estates/store'

export default defineEventHandler(async (event) => {
  const { estate: slug } = params(event, estateParams)
  const { files } = await body(event, checkBody)
  const db = database()
  const head = await findRevision(db, slug, null)
  if (!head) throw refusal(404, 'no-such-estate', `there is no estate "${slug}"`)
  const { estate, problems } = readEstate(files)
  const changes = estate ? compareEstates(await readRevision(db, head.id), estate) : null
  return { ...problemsJson(problems), base: head.number, changes }
})
