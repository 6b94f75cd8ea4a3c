import type { Model } from '../../model/model'
import type { TargetOf } from '../../model/targets'
import { enterInspect, endpointOf, endpointSubnet } from '../steps/inspect'
import { MISSING, notUp, ORDINARY, type NextHop, type TargetFault } from './next-hop'

function fault(model: Model, network: number, target: TargetOf<'inspect'>): TargetFault | null {
  const firewall = model.firewalls[target.index]
  const endpoint = endpointOf(model, target)
  const subnet = model.subnets[endpointSubnet(model, target) ?? -1]
  if (!firewall || !endpoint || endpoint.state === 'deleted' || !subnet)
    return { ...MISSING, beyond: null }
  if (subnet.network !== network) {
    const beyond = { assumed: `${firewall.id} is in this network`, then: 'follow' } as const
    const why = 'is in another network'
    return { code: 'target-elsewhere', object: firewall.ref, why, beyond }
  }
  if (firewall.up && subnet.up && (endpoint.state ?? 'up') === 'up') return null
  return { ...notUp(firewall.ref), beyond: { assumed: `${firewall.id} is up`, then: 'follow' } }
}

/** An endpoint of an inline firewall. */
export const inspect: NextHop<TargetOf<'inspect'>> = {
  ...ORDINARY,
  section: 'firewalls',
  drawn: { as: 'mark', column: 'between', word: 'firewall' },
  text: ({ id, endpoint }) => `inspect ${id}/${endpoint}`,
  fault,
  appliance: (model, _, target) => {
    const firewall = model.firewalls[target.index]
    if (!firewall) return null
    const subnet = model.subnets[endpointSubnet(model, target) ?? -1]
    return { ref: firewall.ref, isFirewall: true, subnet: subnet?.index ?? null }
  },
  leavesSubnet: ({ model }, _, subnet, target) => endpointSubnet(model, target) !== subnet,
  follow: (context, state, { target, from }) => enterInspect(context, state, target, from.subnet),
  sweepKey: ({ id, endpoint }, { table, origin }) => `inspect ${id} ${endpoint} ${table} ${origin}`,
}
