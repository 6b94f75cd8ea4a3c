import { route } from '../../../../http/route'
import { params, refusal } from '../../../../http/respond'
import { estateParams } from '../../../../../contract/requests'
import { database } from '../../../../database/client'
import { listRevisions } from '../../../../estates/store'

export default route('/api/estates/{estate}/revisions', 'get', async (event) => {
  const { estate } = params(event, estateParams)
  const revisions = await listRevisions(database(), estate)
  if (!revisions) throw refusal(404, 'no-such-estate', `there is no estate "${estate}"`)
  return revisions
})
