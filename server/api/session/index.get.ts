import { askerOf } from '../../access/admission'
import { sessionOf } from '../../access/entering'
import { database } from '../../database/client'
import { openRoute } from '../../http/route'

export default openRoute('/api/session', 'get', async (event) =>
  sessionOf(database(), event, await askerOf(event)),
)
