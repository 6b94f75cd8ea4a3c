import { enterLocally } from '../../access/entering'
import { database } from '../../database/client'
import { openRoute } from '../../http/route'

export default openRoute('/api/session/local', 'post', (event) => enterLocally(database(), event))
