import { revisionOf } from '../../../../contract/revision'
import { analysisOf } from '../../../../estates/models'

export default defineEventHandler(async (event) => {
  const { db, id, number } = await revisionOf(event)
  const { exits } = await analysisOf(db, id)
  return { revision: number, ...exits() }
})
