import { idParams } from '../../../../contract/access'
import { inviteAgain } from '../../../access/accounts'
import { invitationLink } from '../../../access/links'
import { database } from '../../../database/client'
import { params, refusal } from '../../../http/respond'
import { route, tell } from '../../../http/route'

export default route('/api/accounts/{id}/link', 'post', async (event) => {
  const { id } = params(event, idParams)
  tell(event, { about: `a new link for account ${id}` })
  const link = await inviteAgain(database(), Number(id))
  if (!link) throw refusal(404, 'no-such-account', `there is no account ${id} that takes a link`)
  return { id: link.id, link: invitationLink(link.secret), endsAt: link.endsAt }
})
