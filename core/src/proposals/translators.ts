import type { Finding } from '../findings/finding'
import type { Mend } from '../mend/mend'
import { copyThatLeadsOut, leadNatOut } from '../mend/recipes/associations'
import { elsewhere } from '../mend/recipes/translators'
import type { Model } from '../model/model'

/**
 * Ways of mending a translator that has no way out: a subnet that has one, a table of its subnet
 * that leads out and else does what the one before did, or a table of its own.
 */
export function* waysToTranslate(model: Model, { anchor }: Finding): Generator<Mend> {
  const id = anchor.slice('nats/'.length)
  const subnet = model.estate.nats.get(id)?.placement?.subnet
  const index = model.index.subnets.get(subnet ?? '')
  const own = index === undefined ? undefined : model.subnets[index]
  if (subnet === undefined || !own) return
  const door = model.attached.gateways
    .get(own.network)
    ?.find(({ kind, up }) => kind === 'internet' && up)
  const ways = [
    elsewhere(model, id),
    door ? copyThatLeadsOut(model, subnet, door.id, '0.0.0.0/0') : null,
    door ? leadNatOut(model, subnet, door.id, '0.0.0.0/0') : null,
  ]
  yield* ways.filter((one) => one !== null)
}
