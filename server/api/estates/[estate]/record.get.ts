import { recordQuery } from '../../../../contract/access'
import { estateParams } from '../../../../contract/requests'
import { readRecord } from '../../../access/record'
import { database } from '../../../database/client'
import { params, query } from '../../../http/respond'
import { route } from '../../../http/route'

export default route('/api/estates/{estate}/record', 'get', (event) =>
  readRecord(database(), { ...query(event, recordQuery), ...params(event, estateParams) }),
)
