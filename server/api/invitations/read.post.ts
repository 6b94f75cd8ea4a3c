import { invitationBody } from '../../../contract/access'
import { readInvitation } from '../../access/accounts'
import { countAttempt, forgetAttempt } from '../../access/attempts'
import { addressOf } from '../../access/entering'
import { NO_INVITATION } from '../../access/links'
import { database } from '../../database/client'
import { body } from '../../http/respond'
import { openRoute } from '../../http/route'

export default openRoute('/api/invitations/read', 'post', async (event) => {
  const { invitation } = await body(event, invitationBody)
  await countAttempt('an invitation', addressOf(event))
  const found = await readInvitation(database(), invitation)
  if (!found) throw NO_INVITATION()
  await forgetAttempt('an invitation', addressOf(event))
  const { login, name, endsAt } = found
  return { login, name, endsAt }
})
