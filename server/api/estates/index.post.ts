import { analyseSaved } from '../../analysis/saved'
import { newEstateBody } from '../../../contract/requests'
import { database } from '../../database/client'
import { createEstate } from '../../estates/store'
import { bodyWithFiles, contentOrRefusal } from '../../reading/reading'

export default defineEventHandler(async (event) => {
  const { files, author, note } = await bodyWithFiles(event, newEstateBody)
  const { content, warnings } = await contentOrRefusal(files)
  const saved = await createEstate(database(), { content, files, author, origin: 'files', note })
  await analyseSaved(database(), saved)
  setResponseStatus(event, 201)
  return { ...saved, warnings }
})
