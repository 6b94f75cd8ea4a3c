import { route } from '../../../../http/route'
import { database } from '../../../../database/client'
import { listDrafts } from '../../../../drafts/store'
import { findRevision } from '../../../../estates/store'
import { aboutDraft } from '../../../../http/draft'
import { params, refusal } from '../../../../http/respond'
import { estateParams } from '../../../../../contract/requests'

export default route('/api/estates/{estate}/drafts', 'get', async (event) => {
  const { estate } = params(event, estateParams)
  const db = database()
  if (!(await findRevision(db, estate, null)))
    throw refusal(404, 'no-such-estate', `there is no estate "${estate}"`)
  return (await listDrafts(db, estate)).map(({ draft, changes }) => ({
    ...aboutDraft(draft),
    changes,
  }))
})
