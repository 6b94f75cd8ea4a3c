import { route } from '../../../http/route'
import { params, refusal } from '../../../http/respond'
import { checkBody, estateParams } from '../../../../contract/requests'
import { connectionString, database } from '../../../database/client'
import { findRevision } from '../../../estates/store'
import { bodyWithFiles, reading } from '../../../reading/reading'

export default route('/api/estates/{estate}/compare', 'post', async (event) => {
  const { estate: slug } = params(event, estateParams)
  const { files } = await bodyWithFiles(event, checkBody)
  const db = database()
  const head = await findRevision(db, slug, null)
  if (!head) throw refusal(404, 'no-such-estate', `there is no estate "${slug}"`)
  const { problems, made } = await reading(event, files, {
    want: 'changes',
    databaseUrl: connectionString(),
    revisionId: head.id,
  })
  return { ...problems, base: head.number, changes: made }
})
