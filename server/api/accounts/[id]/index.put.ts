import { accountChangeBody, idParams } from '../../../../contract/access'
import { changeAccount, listAccounts } from '../../../access/accounts'
import { database } from '../../../database/client'
import { body, params, refusal } from '../../../http/respond'
import { route, tell } from '../../../http/route'

export default route('/api/accounts/{id}', 'put', async (event) => {
  const { id } = params(event, idParams)
  const change = await body(event, accountChangeBody)
  const db = database()
  tell(event, { about: `account ${id}: ${JSON.stringify(change)}` })
  const became = await changeAccount(db, Number(id), change)
  if (became === 'unknown') throw refusal(404, 'no-such-account', `there is no account ${id}`)
  if (became === 'last-owner')
    throw refusal(409, 'last-owner', 'nobody would own the server then; nothing was changed')
  return listAccounts(db)
})
