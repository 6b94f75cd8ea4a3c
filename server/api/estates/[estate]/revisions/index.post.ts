import { route } from '../../../../http/route'
import { analyseSaved } from '../../../../analysis/saved'
import { params, refusal } from '../../../../http/respond'
import { estateParams, newRevisionBody } from '../../../../../contract/requests'
import { database } from '../../../../database/client'
import { addRevision, RevisionConflict } from '../../../../estates/store'
import { bodyWithFiles, contentOrRefusal } from '../../../../reading/reading'

export default route('/api/estates/{estate}/revisions', 'post', async (event, { name: author }) => {
  const { estate: slug } = params(event, estateParams)
  const { files, note, base } = await bodyWithFiles(event, newRevisionBody)
  const { content, warnings } = await contentOrRefusal(event, files)
  try {
    const saved = await addRevision(database(), slug, base, {
      content,
      files,
      author,
      origin: 'files',
      note,
    })
    if (!saved) throw refusal(404, 'no-such-estate', `there is no estate "${slug}"`)
    await analyseSaved(database(), saved)
    setResponseStatus(event, 201)
    return { ...saved, warnings }
  } catch (error) {
    if (error instanceof RevisionConflict)
      throw refusal(409, 'newer-revision', error.message, { head: error.head })
    throw error
  }
})
