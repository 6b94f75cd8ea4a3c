import { derived } from '../incremental/derived'
import type { Model } from '../model/model'

/**
 * The elements of ways that stand in a subnet, so that packets which pass them meet its edge and
 * its table. Cached with the model.
 */
export const elementsIn = (model: Model, subnet: number): readonly string[] =>
  elementsBySubnet(model).get(subnet) ?? []

const elementsBySubnet = derived((model: Model): ReadonlyMap<number, readonly string[]> => {
  const out = new Map<number, string[]>()
  const put = (subnet: number | undefined, ref: string): void => {
    if (subnet === undefined || subnet < 0) return
    const list = out.get(subnet)
    if (list) list.push(ref)
    else out.set(subnet, [ref])
  }
  for (const nat of model.nats) put(nat.subnet, nat.ref)
  for (const { ref, index, interfaces } of model.firewalls) {
    for (const side of interfaces) put(model.interfaces[side.interface]!.subnet, ref)
    for (const id of inlineEndpointsIn(model, index)) put(model.index.subnets.get(id), ref)
  }
  for (const one of model.interfaces) {
    if (one.forwards) put(one.subnet, one.ref)
    const endpoint = model.endpointAt.get(one.index)
    if (endpoint !== undefined) put(one.subnet, `endpoints/${endpoint}`)
  }
  for (const transit of model.transits)
    for (const { subnets } of Object.values(transit.source.attachments ?? {}))
      for (const id of subnets ?? []) put(model.index.subnets.get(id), transit.ref)
  for (const frontend of model.frontends) put(frontend.subnet, frontend.ref)
  return out
})

/** The subnets in which an inline firewall has endpoints, by id. */
export function inlineEndpointsIn(model: Model, firewall: number): readonly string[] {
  const { source } = model.firewalls[firewall]!
  if (source.style !== 'inline') return []
  return Object.values(source.endpoints ?? {}).flatMap(({ subnet }) => subnet ?? [])
}

/** The elements of ways that an interface is: a forwarder, a side of a firewall, an endpoint. */
export function elementsAt(model: Model, index: number): readonly string[] {
  const one = model.interfaces[index]!
  const side = model.firewallAt.get(index)
  const endpoint = model.endpointAt.get(index)
  return [
    one.ref,
    ...(side ? [model.firewalls[side.firewall]!.ref] : []),
    ...(endpoint === undefined ? [] : [`endpoints/${endpoint}`]),
  ]
}
