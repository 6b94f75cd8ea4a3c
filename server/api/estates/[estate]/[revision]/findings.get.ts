import { refusal } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { analysisOf, MOST_SUBNETS_FOR_FINDINGS } from '../../../../estates/models'

export default defineEventHandler(async (event) => {
  const { db, id, number } = await revisionOf(event)
  const { model, findings } = await analysisOf(db, id)
  if (model.subnets.length > MOST_SUBNETS_FOR_FINDINGS) {
    const message = `this estate has ${model.subnets.length} subnets; findings of more than ${MOST_SUBNETS_FOR_FINDINGS} are computed on the command line: salt-trail check`
    throw refusal(422, 'too-many-subnets', message)
  }
  const { milliseconds, findings: found, expectations } = findings()
  // A broken one is traced by asking for its packet: the trace itself would make the list too long.
  return { revision: number, milliseconds, findings: found, expectations: expectations.map(({ trace: _, ...rest }) => rest) }
})
