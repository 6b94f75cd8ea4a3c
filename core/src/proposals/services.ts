import { pointer } from '../changes/index'
import type { Finding } from '../findings/finding'
import { mend, type Mend } from '../mend/mend'
import type { Model } from '../model/model'

/**
 * Ways of reaching a provider's service privately: by the subnet's own switch, which leads nothing
 * else otherwise and concerns no other subnet.
 */
export function* waysToService(model: Model, { anchor, objects }: Finding): Generator<Mend> {
  const id = anchor.slice('subnets/'.length)
  const subnet = model.estate.subnets.get(id)
  const service = objects.find((ref) => ref.startsWith('services/'))?.slice('services/'.length)
  if (!subnet || service === undefined || subnet.privateServices === 'all') return
  const path = pointer('subnets', id, 'privateServices')
  yield mend(`switch ${id} to ${service}`, [
    subnet.privateServices === undefined
      ? { op: 'add', path, value: [service] }
      : { op: 'add', path: `${path}/-`, value: service },
  ])!
}
