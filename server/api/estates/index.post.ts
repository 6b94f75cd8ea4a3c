import { analyseSaved } from '../../analysis/saved'
import { body } from '../../contract/respond'
import { estateOrRefusal } from '../../contract/problems'
import { newEstateBody } from '../../contract/schemas'
import { database } from '../../database/client'
import { saving } from '../../database/failure'
import { createEstate } from '../../estates/store'

export default defineEventHandler(async (event) => {
  const { files, author, note } = await body(event, newEstateBody)
  const { estate, warnings } = estateOrRefusal(files)
  const saved = await saving(() => createEstate(database(), { estate, files, author, origin: 'files', note }))
  await analyseSaved(database(), saved)
  setResponseStatus(event, 201)
  return { ...saved, warnings }
})
