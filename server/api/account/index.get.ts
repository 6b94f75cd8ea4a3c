import { accountToSignIn } from '../../access/accounts'
import { listSessions } from '../../access/sessions'
import { listTokens } from '../../access/tokens'
import { database } from '../../database/client'
import { route } from '../../http/route'

export default route('/api/account', 'get', async (_event, asker) => {
  const db = database()
  const { id, login, name, isServerOwner, sessionId } = asker
  const [found, sessions, tokens] = await Promise.all([
    accountToSignIn(db, login),
    listSessions(db, id),
    listTokens(db, id),
  ])
  return {
    account: { id, login, name, isServerOwner },
    hasPassword: typeof found?.passwordHash === 'string',
    sessions: sessions.map((one) => ({ ...one, isThis: one.id === sessionId })),
    tokens,
  }
})
