import { params, refusal } from '../../contract/respond'
import { exampleParams } from '../../contract/schemas'
import { readExample } from '../../estates/examples'

export default defineEventHandler((event) => {
  const { example } = params(event, exampleParams)
  const found = readExample(example)
  if (!found) throw refusal(404, 'no-such-example', `there is no example "${example}"`)
  return found
})
