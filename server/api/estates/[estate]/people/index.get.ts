import { estateParams } from '../../../../../contract/requests'
import { peopleOf } from '../../../../access/roles'
import { database } from '../../../../database/client'
import { params } from '../../../../http/respond'
import { route } from '../../../../http/route'

export default route('/api/estates/{estate}/people', 'get', (event) =>
  peopleOf(database(), params(event, estateParams).estate),
)
