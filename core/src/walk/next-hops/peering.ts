import { changed } from '../next-state'
import type { TargetOf } from '../../model/targets'
import { crossPeering, otherSide } from '../steps/peering'
import { leaveByPrivateGateway } from '../steps/private-gateway'
import { elementFault, elementKey, ORDINARY, type NextHop } from './next-hop'

/**
 * A peering: straight to the other network, or for a learned route to the gateway that side lends.
 */
export const peering: NextHop<TargetOf<'peering'>> = {
  ...ORDINARY,
  section: 'peerings',
  drawn: { as: 'line' },
  text: ({ id }) => `peering ${id}`,
  fault: (model, network, { index }) => {
    const element = model.peerings[index]
    const joins = element && [element.a.network, element.b.network].includes(network)
    const attached = element && { ...element, network: joins ? network : -1 }
    return elementFault(network, attached, 'connects other networks')
  },
  follow: (context, state, { target, from: { network }, route }) => {
    const { model } = context
    const element = model.peerings[target.index]!
    if (route.origin === 'learned') {
      const id = route.learnedFrom!.slice('gateways/'.length)
      const lent = model.gateways[model.index.gateways.get(id) ?? -1]
      if (lent) {
        return crossPeering(context, state, element, network, 'lent', (s) =>
          leaveByPrivateGateway(context, s, lent),
        )
      }
    }
    const far = otherSide(element, network)
    return crossPeering(context, state, element, network, 'destination', (s) => [
      changed(s, { next: { at: 'local', network: far, fromSubnet: -1 } }),
    ])
  },
  sweepKey: elementKey,
}
