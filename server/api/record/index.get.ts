import { recordQuery } from '../../../contract/access'
import { readRecord } from '../../access/record'
import { database } from '../../database/client'
import { query } from '../../http/respond'
import { route } from '../../http/route'

export default route('/api/record', 'get', (event) =>
  readRecord(database(), query(event, recordQuery)),
)
