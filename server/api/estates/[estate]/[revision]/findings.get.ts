import { revisionOf } from '../../../../contract/revision'
import { analysisOf } from '../../../../estates/models'

export default defineEventHandler(async (event) => {
  const { db, id, number } = await revisionOf(event)
  const { findings } = await analysisOf(db, id)
  const { milliseconds, findings: found, expectations } = findings()
  // A broken one is traced by asking for its packet: the trace itself would make the list too long.
  return { revision: number, milliseconds, findings: found, expectations: expectations.map(({ trace: _, ...rest }) => rest) }
})
