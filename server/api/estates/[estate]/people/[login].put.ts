import { personParams, roleBody } from '../../../../../contract/access'
import { changeRoleOrRefuse } from '../../../../access/change-role'
import { database } from '../../../../database/client'
import { body, params } from '../../../../http/respond'
import { route, tell } from '../../../../http/route'

export default route('/api/estates/{estate}/people/{login}', 'put', async (event) => {
  const { estate, login } = params(event, personParams)
  const { role } = await body(event, roleBody)
  tell(event, { about: `${login} is ${role} from now on` })
  return changeRoleOrRefuse(database(), estate, login, role)
})
