import { pointer, type Operation } from '../changes/index'
import type { Route } from '../format/estate'
import { freeId } from '../mend/situation'
import type { Model } from '../model/model'
import { listed, moved, notMoved, type Moved, type NotMoved } from './move'
import { lead, noTables, unknownSubnets } from '../steering/tables'

export interface EndpointsMove {
  readonly subnets: readonly string[]
  readonly services: readonly string[]
}

/**
 * Leads subnets to the provider's services by endpoints of their networks instead of the way out;
 * endpoints that are there are used.
 */
export function byEndpoints(model: Model, { subnets, services }: EndpointsMove): Moved | NotMoved {
  const { estate } = model
  const missing = unknownSubnets(model, subnets)
  if (missing.length > 0) return notMoved(`there is no subnet ${listed(missing)} in this estate`)
  const unknown = services.filter((id) => !estate.services.has(id))
  if (unknown.length > 0) return notMoved(`there is no service ${listed(unknown)} in this estate`)
  if (subnets.length === 0 || services.length === 0)
    return notMoved('choose subnets, and the services they are to reach by endpoints')
  const under = noTables()
  const operations: Operation[] = []
  const added = new Map<string, unknown>(estate.endpoints)
  const networks = new Set(subnets.map((id) => estate.subnets.get(id)!.network))
  for (const network of networks) {
    const routes = services.map((service): Route => {
      const known = [...estate.endpoints].find(
        ([, one]) => one.style === 'routed' && one.network === network && one.service === service,
      )?.[0]
      const id = known ?? freeId(added, `${network}-${service}`)
      if (known === undefined) {
        const value = { style: 'routed', service, network }
        operations.push({ op: 'add', path: pointer('endpoints', id), value })
        added.set(id, value)
      }
      return { to: { service }, via: { endpoint: id } }
    })
    lead(model, under, {
      subnets: subnets.filter((id) => estate.subnets.get(id)!.network === network),
      routes,
      name: `${network}-services`,
    })
  }
  const change = [...operations, ...under.operations]
  if (change.length === 0) return notMoved('they are led there already')
  return moved(`lead ${listed(subnets)} to ${listed(services)} by endpoints`, change)
}
