import { route, tell } from '../../http/route'
import { analyseSaved } from '../../analysis/saved'
import { newEstateBody } from '../../../contract/requests'
import { database } from '../../database/client'
import { createEstate } from '../../estates/store'
import { bodyWithFiles, contentOrRefusal } from '../../reading/reading'

export default route('/api/estates', 'post', async (event, asker) => {
  const { files, note } = await bodyWithFiles(event, newEstateBody)
  const { content, warnings } = await contentOrRefusal(event, files)
  const first = { content, files, author: asker.name, origin: 'files', note }
  const saved = await createEstate(database(), first, asker.id)
  tell(event, { estate: saved.slug, about: content.name })
  await analyseSaved(database(), saved)
  setResponseStatus(event, 201)
  return { ...saved, warnings }
})
