import type { SubnetModel } from '@salt-trail/core'
import type { H3Event } from 'h3'
import { query, refusal } from '../contract/respond'
import { revisionOf } from '../contract/revision'
import { subnetQuery } from '../contract/view-schemas'
import { modelOf, type HeldModel } from './models'

/** The subnet a request asks about, or a refusal that says what is missing. */
export async function subnetOf(event: H3Event): Promise<HeldModel & { subnet: SubnetModel }> {
  const { db, id } = await revisionOf(event)
  const { subnet: wanted } = query(event, subnetQuery)
  const held = await modelOf(db, id)
  const subnet = held.model.subnets[held.model.index.subnets.get(wanted) ?? -1]
  if (!subnet) throw refusal(404, 'no-such-subnet', `there is no subnet "${wanted}" in this revision`)
  return { ...held, subnet }
}
