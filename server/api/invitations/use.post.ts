import { joinBody } from '../../../contract/access'
import { Taken, takeInvitation } from '../../access/accounts'
import { countAttempt, forgetAttempt } from '../../access/attempts'
import { addressOf, enter } from '../../access/entering'
import { NO_INVITATION } from '../../access/links'
import { hashPassword } from '../../access/passwords'
import { database } from '../../database/client'
import { body, refusal } from '../../http/respond'
import { openRoute } from '../../http/route'

export default openRoute('/api/invitations/use', 'post', async (event) => {
  const { invitation: secret, login, name, password } = await body(event, joinBody)
  const db = database()
  await countAttempt('an invitation', addressOf(event))
  const passwordHash = await hashPassword(password)
  const account = await takeInvitation(db, { secret, login, name, passwordHash }).catch(
    (error: unknown) => {
      throw error instanceof Taken ? refusal(409, 'taken', error.message) : error
    },
  )
  if (!account) throw NO_INVITATION()
  await forgetAttempt('an invitation', addressOf(event))
  return enter(db, event, account, 'by an invitation')
})
