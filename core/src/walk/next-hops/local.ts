import { changed } from '../next-state'
import type { TargetOf } from '../../model/targets'
import { inPrefixes, noteFor } from '../scope'
import { ORDINARY, type NextHop } from './next-hop'

/** Handed to the owner of the address in the network. */
export const local: NextHop<TargetOf<'local'>> = {
  ...ORDINARY,
  text: () => 'local',
  leavesSubnet: (context, state, subnet) => {
    const { allRanges } = context.model.subnets[subnet]!
    return !inPrefixes(allRanges, state.packet.dst, noteFor(context, state, 'dst'))
  },
  follow: (_, state, { from: { network, subnet } }) => [
    changed(state, { next: { at: 'local', network, fromSubnet: subnet } }),
  ],
  sweepKey: (_, { table, origin }) => `local ${table} ${origin}`,
}
