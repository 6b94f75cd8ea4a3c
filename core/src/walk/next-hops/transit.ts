import type { TargetOf } from '../../model/targets'
import { attachmentOf, enterTransitFromNetwork, isUp } from '../steps/transit'
import { elementFault, elementKey, notUp, ORDINARY, type NextHop } from './next-hop'

/** A transit, by the attachment of the network that the packet is in. */
export const transit: NextHop<TargetOf<'transit'>> = {
  ...ORDINARY,
  section: 'transits',
  drawn: { as: 'mark', column: 'between', word: 'transit' },
  text: ({ id }) => `transit ${id}`,
  fault: (model, network, { index }) => {
    const element = model.transits[index]
    const attached = element && {
      ...element,
      network: element.attachmentOf.has(network) ? network : -1,
    }
    const fault = elementFault(network, attached, 'is not attached to this network')
    if (fault || isUp(attachmentOf(element!, network))) return fault
    return { ...notUp(element!.ref), isLostThere: true }
  },
  follow: (context, state, { target, from }) =>
    enterTransitFromNetwork(context, state, context.model.transits[target.index]!, from),
  sweepKey: elementKey,
}
