import { setImmediate } from 'node:timers/promises'
import { gatherSeen, readOnlooker, subnetSeenBy, type SubnetSeen } from '@salt-trail/core'
import { query, refusal } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { onlookerQuery } from '../../../../contract/view-schemas'
import { modelOf } from '../../../../estates/models'

/** So many subnets are looked at before other requests have their turn. */
const SUBNETS_AT_ONCE = 50

export default defineEventHandler(async (event) => {
  const { to } = query(event, onlookerQuery)
  const { db, id, number } = await revisionOf(event)
  const { model, memo } = await modelOf(db, id)
  const onlooker = readOnlooker(model, to)
  if (onlooker === null) throw refusal(422, 'no-such-onlooker', `"${to}" is neither internet, party:ID of this estate, an address nor a prefix`)
  const seen: SubnetSeen[] = []
  let looked = 0
  for (const index of model.index.subnets.values()) {
    seen.push(...subnetSeenBy(model, model.subnets[index]!, onlooker, memo))
    if (++looked % SUBNETS_AT_ONCE === 0) await setImmediate()
  }
  return { revision: number, to, ...gatherSeen(model, onlooker, seen) }
})
