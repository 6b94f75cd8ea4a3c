import type { TargetOf } from '../../model/targets'
import { handOver } from '../hand-over'
import { lose } from '../state'
import { ORDINARY, type NextHop } from './next-hop'

/** The packet is refused, and its sender is told so (RFC 1812, 5.2.7.1). */
export const reject: NextHop<TargetOf<'reject'>> = {
  ...ORDINARY,
  text: () => 'reject',
  follow: (context, state, { from, table }) =>
    lose(context, state, 'drop-route', table, {
      what: 'the packet is not refused',
      then: (s) => handOver(context, s, from.network),
    }),
  sweepKey: (_, { table, origin }) => `reject ${table} ${origin}`,
}
