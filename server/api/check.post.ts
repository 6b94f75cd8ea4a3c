import { body } from '../contract/respond'
import { checkBody } from '../contract/schemas'
import { reading } from '../reading/reading'

export default defineEventHandler(async (event) => {
  const { files } = await body(event, checkBody)
  return (await reading(files, { want: 'problems' })).problems
})
