import type { TargetOf } from '../../model/targets'
import { enterEndpoint, reachService } from '../steps/endpoint'
import { MISSING, notUp, ORDINARY, type NextHop } from './next-hop'

/** A routed endpoint of a provider's service. */
export const endpoint: NextHop<TargetOf<'endpoint'>> = {
  ...ORDINARY,
  section: 'endpoints',
  drawn: { as: 'mark', column: 'between', word: 'endpoint' },
  text: ({ id }) => `endpoint ${id}`,
  fault: (model, network, { id }) => {
    const element = model.estate.endpoints.get(id)
    const ref = `endpoints/${id}`
    if (!element || element.state === 'deleted') return { ...MISSING, beyond: null }
    if (element.network !== model.networks[network]!.id) {
      const why = `belongs to ${element.network ?? 'no network'}`
      const beyond = { assumed: 'it belongs to this network', then: 'follow' } as const
      return { code: 'target-elsewhere', object: ref, why, beyond }
    }
    if ((element.state ?? 'up') === 'up') return null
    return { ...notUp(ref), beyond: { assumed: 'it is up', then: 'follow' } }
  },
  follow: (context, state, { target, from }) =>
    enterEndpoint(context, state, target.id, from.network, from.subnet),
  followBeyond: (context, state, { target: { id }, from }) => {
    const { service } = context.model.estate.endpoints.get(id)!
    return reachService(context, state, service, `endpoints/${id}`, from.network)
  },
  sweepKey: ({ id }, { table, origin }) => `endpoint ${id}  ${table} ${origin}`,
}
