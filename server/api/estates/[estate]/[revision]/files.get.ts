import { revisionOf } from '../../../../http/revision'
import { readFiles } from '../../../../estates/store'

export default defineEventHandler(async (event) => {
  const { db, id } = await revisionOf(event)
  return readFiles(db, id)
})
