import { route } from '../../../../http/route'
import { params, refusal } from '../../../../http/respond'
import { acceptanceParams } from '../../../../../contract/requests'
import { database } from '../../../../database/client'
import { takeBackAcceptance } from '../../../../estates/acceptances'

export default route('/api/estates/{estate}/acceptances/{fingerprint}', 'delete', async (event) => {
  const { estate, fingerprint } = params(event, acceptanceParams)
  if (!(await takeBackAcceptance(database(), estate, fingerprint)))
    throw refusal(
      404,
      'not-accepted',
      `no finding ${fingerprint} of an estate "${estate}" is accepted`,
    )
  return { fingerprint }
})
