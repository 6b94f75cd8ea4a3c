import type { TargetOf } from '../../model/targets'
import { handOver } from '../hand-over'
import { lose } from '../next-state'
import { ORDINARY, type NextHop } from './next-hop'

/** The packet is dropped: by a route that somebody wrote, or by a built-in one. */
export const drop: NextHop<TargetOf<'drop'>> = {
  ...ORDINARY,
  text: () => 'drop',
  follow: (context, state, { from, table }) =>
    lose(context, state, 'drop-route', table, {
      what: 'the packet is not dropped',
      then: (s) => handOver(context, s, from.network),
    }),
  sweepKey: (_, { table, origin }) => `drop ${table} ${origin}`,
}
