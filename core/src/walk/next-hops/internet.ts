import type { TargetOf } from '../../model/targets'
import { leaveByBuiltInDoor } from '../steps/internet'
import { ORDINARY, type NextHop } from './next-hop'

/** The built-in way to the internet of a default-open network. */
export const internet: NextHop<TargetOf<'internet'>> = {
  ...ORDINARY,
  text: () => 'internet',
  follow: (context, state, { from: { network, subnet } }) =>
    leaveByBuiltInDoor(context, state, network, subnet),
  sweepKey: (_, { table, origin }) => `internet ${table} ${origin}`,
}
