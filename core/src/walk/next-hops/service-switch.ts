import type { TargetOf } from '../../model/targets'
import { switchToService } from '../steps/endpoint'
import { ORDINARY, type NextHop } from './next-hop'

/** A subnet's own switch to a provider's service. */
export const serviceSwitch: NextHop<TargetOf<'service-switch'>> = {
  ...ORDINARY,
  section: 'services',
  text: ({ id }) => `service switch to ${id}`,
  follow: (context, state, { target, from }) =>
    switchToService(context, state, target.id, from.network),
  sweepKey: ({ id }, { table, origin }) => `service-switch ${id}  ${table} ${origin}`,
}
