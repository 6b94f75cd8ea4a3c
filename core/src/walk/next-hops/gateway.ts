import type { TargetOf } from '../../model/targets'
import { leaveByGateway } from '../steps/gateway'
import { leaveByPrivateGateway } from '../steps/private-gateway'
import { elementFault, elementKey, ORDINARY, type NextHop } from './next-hop'

/** An internet gateway, one for IPv6 outbound only, or a private gateway. */
export const gateway: NextHop<TargetOf<'gateway'>> = {
  ...ORDINARY,
  section: 'gateways',
  drawn: { as: 'mark', column: 'doors', word: 'gateway' },
  text: ({ id }) => `gateway ${id}`,
  fault: (model, network, { index }) => {
    const element = model.gateways[index]
    const home = model.networks[element?.network ?? -1]
    return elementFault(
      network,
      element,
      home ? `belongs to ${home.id}` : 'is attached to no network',
    )
  },
  follow: (context, state, { target }) => {
    const element = context.model.gateways[target.index]!
    return element.kind === 'private'
      ? leaveByPrivateGateway(context, state, element)
      : leaveByGateway(context, state, element.index)
  },
  sweepKey: elementKey,
}
