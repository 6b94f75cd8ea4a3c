import type { TargetOf } from '../../model/targets'
import { ORDINARY, type NextHop } from './next-hop'
import { followToOwner, leavesOwnersSubnet, ownerAppliance, ownerFault } from './owner'

/** An interface by its id. */
export const networkInterface: NextHop<TargetOf<'interface'>> = {
  ...ORDINARY,
  section: 'interfaces',
  isOwned: true,
  text: ({ id }) => `interface ${id}`,
  fault: ownerFault,
  appliance: ownerAppliance,
  leavesSubnet: leavesOwnersSubnet,
  follow: followToOwner,
  sweepKey: ({ id }, { table, origin }) => `interface ${id}  ${table} ${origin}`,
}
