import { formatAddress } from '../address/address'
import { pointer } from '../changes/index'
import type { Finding } from '../findings/finding'
import { mend, type Mend } from '../mend/mend'
import { addRoute } from '../mend/recipes/routes'
import { freeId } from '../mend/situation'
import type { Model } from '../model/model'
import { isRefusal } from '../trace/question'
import { trace } from '../trace/trace'

/**
 * Ways of reaching a provider's service privately: by the subnet's own switch, which leads nothing
 * else otherwise and concerns no other subnet, else by a routed endpoint of its network and a route
 * to it.
 */
export function* waysToService(model: Model, { anchor, objects }: Finding): Generator<Mend> {
  const id = anchor.slice('subnets/'.length)
  const subnet = model.estate.subnets.get(id)
  const service = objects.find((ref) => ref.startsWith('services/'))?.slice('services/'.length)
  if (!subnet || service === undefined) return
  const path = pointer('subnets', id, 'privateServices')
  if (subnet.privateServices !== 'all')
    yield mend(`switch ${id} to ${service}`, [
      subnet.privateServices === undefined
        ? { op: 'add', path, value: [service] }
        : { op: 'add', path: `${path}/-`, value: service },
    ])!
  const made = newEndpoint(model, id, service)
  if (made) yield made
}

/**
 * A routed endpoint of a subnet's network for a service, and the subnet's route to it; null where
 * the network has one: the mend of the finding itself is a route to that.
 */
function newEndpoint(
  { estate, index, subnets, tables }: Model,
  subnet: string,
  service: string,
): Mend | null {
  const { network } = estate.subnets.get(subnet)!
  const isThere = [...estate.endpoints.values()].some(
    (one) => one.style === 'routed' && one.network === network && one.service === service,
  )
  if (isThere) return null
  const endpoint = freeId(estate.endpoints, `${network}-${service}`)
  const table = tables[subnets[index.subnets.get(subnet) ?? -1]?.table ?? -1]?.id ?? null
  return mend(`route ${service} by an endpoint of ${network}`, [
    {
      op: 'add',
      path: pointer('endpoints', endpoint),
      value: { style: 'routed', service, network },
    },
    ...addRoute({ estate }, { subnet, table, entry: -1 }, { service }, { endpoint }),
  ])
}

/**
 * Ways of answering a service's name in a network as an endpoint of another network does: by a name
 * zone with the endpoint's addresses, where hosts of the network reach them.
 */
export function* waysToAnswerName(model: Model, { anchor, objects }: Finding): Generator<Mend> {
  const network = anchor.slice('networks/'.length)
  const by = objects.find((ref) => ref.startsWith('endpoints/'))?.slice('endpoints/'.length)
  const endpoint = by === undefined ? undefined : model.estate.endpoints.get(by)
  if (endpoint?.style !== 'addressed') return
  const names = model.estate.services.get(endpoint.service)?.names ?? []
  const addresses = (endpoint.interfaces ?? []).flatMap(
    (id) => model.interfaces[model.index.interfaces.get(id) ?? -1]?.addresses ?? [],
  )
  const reached = addresses.map(formatAddress).filter((to) => isReachedFrom(model, network, to))
  if (reached.length === 0) return
  for (const name of names) {
    // A zone has whole names, and one that is there may hold more than this.
    if (name.includes('*') || model.estate.nameZones.has(name)) continue
    yield mend(`a name zone by which ${network} resolves ${name} to ${by}`, [
      {
        op: 'add',
        path: pointer('nameZones', name),
        value: { records: { [name]: reached }, linkedTo: [network] },
      },
    ])!
  }
}

/** So many hosts of a network are asked whether they reach an address. */
const MOST_ASKED = 64

/** Whether one of the first hosts of a network reaches an address by TCP 443 and is answered. */
const isReachedFrom = (model: Model, network: string, to: string): boolean =>
  (model.networks[model.index.networks.get(network) ?? -1]?.subnets ?? [])
    .flatMap((subnet) => model.subnets[subnet]!.interfaces)
    .slice(0, MOST_ASKED)
    .some((index) => {
      const from = `interface:${model.interfaces[index]!.id}`
      const answer = trace(model, { from, to, protocol: 'tcp', port: 443 }, { evidence: false })
      return !isRefusal(answer) && answer.verdict === 'works'
    })
