import { signInBody } from '../../../contract/access'
import { accountToSignIn } from '../../access/accounts'
import { countAttempt, forgetAttempt } from '../../access/attempts'
import { addressOf, enter } from '../../access/entering'
import { isPassword } from '../../access/passwords'
import { database } from '../../database/client'
import { body, refusal } from '../../http/respond'
import { openRoute, tell } from '../../http/route'

/** Who is unknown, has no password, or is not let in is told the same as who mistypes. */
export default openRoute('/api/session', 'post', async (event) => {
  const { login, password } = await body(event, signInBody)
  const db = database()
  await countAttempt(login.trim().toLowerCase(), addressOf(event))
  const found = await accountToSignIn(db, login)
  if (found) tell(event, { about: `an attempt to sign in as ${found.login}` })
  const isRight = await isPassword(found?.passwordHash ?? null, password)
  if (!found || !isRight)
    throw refusal(422, 'not-signed-in', 'there is no account with this login and this password')
  await forgetAttempt(login.trim().toLowerCase(), addressOf(event))
  return enter(db, event, found, 'with a password')
})
