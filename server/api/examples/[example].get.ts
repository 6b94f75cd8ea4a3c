import { route } from '../../http/route'
import { params, refusal } from '../../http/respond'
import { exampleParams } from '../../../contract/requests'
import { readExample } from '../../estates/examples'

export default route('/api/examples/{example}', 'get', (event) => {
  const { example } = params(event, exampleParams)
  const found = readExample(example)
  if (!found) throw refusal(404, 'no-such-example', `there is no example "${example}"`)
  return found
})
