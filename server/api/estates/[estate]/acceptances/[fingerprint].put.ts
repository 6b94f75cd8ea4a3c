import { route } from '../../../../http/route'
import { body, params, refusal } from '../../../../http/respond'
import { acceptanceBody, acceptanceParams } from '../../../../../contract/requests'
import { database } from '../../../../database/client'
import { acceptFinding } from '../../../../estates/acceptances'

export default route(
  '/api/estates/{estate}/acceptances/{fingerprint}',
  'put',
  async (event, { name: author }) => {
    const { estate, fingerprint } = params(event, acceptanceParams)
    const acceptance = { ...(await body(event, acceptanceBody)), author }
    if (!(await acceptFinding(database(), estate, fingerprint, acceptance)))
      throw refusal(404, 'no-such-estate', `there is no estate "${estate}"`)
    return acceptance
  },
)
