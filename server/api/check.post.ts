import { problemsJson, readEstate } from '@salt-trail/core'
import { body } from '../contract/respond'
import { checkBody } from '../contract/schemas'

export default defineEventHandler(async (event) => {
  const { files } = await body(event, checkBody)
  return problemsJson(readEstate(files).problems)
})
