import { listAccounts } from '../../access/accounts'
import { database } from '../../database/client'
import { route } from '../../http/route'

export default route('/api/accounts', 'get', () => listAccounts(database()))
