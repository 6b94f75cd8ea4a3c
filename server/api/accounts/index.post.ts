import { newAccountBody } from '../../../contract/access'
import { inviteAccount, Taken } from '../../access/accounts'
import { invitationLink } from '../../access/links'
import { database } from '../../database/client'
import { body, refusal } from '../../http/respond'
import { route, tell } from '../../http/route'

export default route('/api/accounts', 'post', async (event) => {
  const wanted = await body(event, newAccountBody)
  const what = wanted.isServerOwner ? 'to own the server' : ''
  tell(event, { about: `invites ${wanted.login} ${what}`.trim() })
  const { id, secret, endsAt } = await inviteAccount(database(), wanted).catch((error: unknown) => {
    throw error instanceof Taken ? refusal(409, 'taken', error.message) : error
  })
  setResponseStatus(event, 201)
  return { id, link: invitationLink(secret), endsAt }
})
