import type { TargetOf } from '../../model/targets'
import { enterNatByRoute } from '../steps/nat'
import { elementFault, elementKey, ORDINARY, type NextHop } from './next-hop'

/** A NAT, in a subnet or of a region. */
export const nat: NextHop<TargetOf<'nat'>> = {
  ...ORDINARY,
  section: 'nats',
  drawn: { as: 'mark', column: 'between', word: 'NAT' },
  text: ({ id }) => `nat ${id}`,
  fault: (model, network, { index }) => {
    const element = model.nats[index]
    const home = model.networks[element?.network ?? -1]
    return elementFault(
      network,
      element,
      home ? `belongs to ${home.id}` : 'is attached to no network',
    )
  },
  leavesSubnet: ({ model }, _, subnet, { index }) => model.nats[index]?.subnet !== subnet,
  follow: (context, state, { target, from }) =>
    enterNatByRoute(context, state, context.model.nats[target.index]!, from.subnet),
  sweepKey: elementKey,
}
