import { personParams } from '../../../../../contract/access'
import { changeRoleOrRefuse } from '../../../../access/change-role'
import { database } from '../../../../database/client'
import { params } from '../../../../http/respond'
import { route, tell } from '../../../../http/route'

export default route('/api/estates/{estate}/people/{login}', 'delete', async (event) => {
  const { estate, login } = params(event, personParams)
  tell(event, { about: `${login} has no role any more` })
  return changeRoleOrRefuse(database(), estate, login, null)
})
