import { passwordBody } from '../../../contract/access'
import { accountToSignIn, setPassword } from '../../access/accounts'
import { countAttempt, forgetAttempt } from '../../access/attempts'
import { addressOf } from '../../access/entering'
import { hashPassword, isPassword } from '../../access/passwords'
import { endSessions } from '../../access/sessions'
import { database } from '../../database/client'
import { body, refusal } from '../../http/respond'
import { route } from '../../http/route'

export default route('/api/account/password', 'put', async (event, { id, login, sessionId }) => {
  const { old, password } = await body(event, passwordBody)
  const db = database()
  await countAttempt(login, addressOf(event))
  const found = await accountToSignIn(db, login)
  if (!(await isPassword(found?.passwordHash ?? null, old)))
    throw refusal(422, 'other-password', 'the old password is another one; nothing was changed')
  await forgetAttempt(login, addressOf(event))
  await setPassword(db, id, await hashPassword(password))
  return { ended: await endSessions(db, id, { butId: sessionId }) }
})
