import { body, params, refusal } from '../../../../http/respond'
import { acceptanceBody, acceptanceParams } from '../../../../../contract/requests'
import { database } from '../../../../database/client'
import { acceptFinding } from '../../../../estates/acceptances'

export default defineEventHandler(async (event) => {
  const { estate, fingerprint } = params(event, acceptanceParams)
  const acceptance = await body(event, acceptanceBody)
  if (!(await acceptFinding(database(), estate, fingerprint, acceptance)))
    throw refusal(404, 'no-such-estate', `there is no estate "${estate}"`)
  return acceptance
})
