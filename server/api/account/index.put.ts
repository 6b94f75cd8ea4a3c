import { ownWordsBody } from '../../../contract/access'
import { renameAccount, Taken } from '../../access/accounts'
import { database } from '../../database/client'
import { body, refusal } from '../../http/respond'
import { route, tell } from '../../http/route'

export default route('/api/account', 'put', async (event, { id }) => {
  const { name } = await body(event, ownWordsBody)
  tell(event, { about: `signs as ${name} from now on` })
  return renameAccount(database(), id, name).catch((error: unknown) => {
    throw error instanceof Taken ? refusal(409, 'taken', error.message) : error
  })
})
