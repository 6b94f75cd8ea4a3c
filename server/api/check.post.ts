import { body } from '../http/respond'
import { checkBody } from '../../contract/requests'
import { reading } from '../reading/reading'

export default defineEventHandler(async (event) => {
  const { files } = await body(event, checkBody)
  return (await reading(files, { want: 'problems' })).problems
})
