import { formatAddress } from '../../address/address'
import type { TargetOf } from '../../model/targets'
import { ORDINARY, type NextHop } from './next-hop'
import { followToOwner, leavesOwnersSubnet, ownerAppliance, ownerFault } from './owner'

/** An address: its owner in the network or, in a default-open one, in a directly peered network. */
export const address: NextHop<TargetOf<'address'>> = {
  ...ORDINARY,
  isOwned: true,
  text: (target) => `address ${formatAddress(target.address)}`,
  fault: ownerFault,
  appliance: ownerAppliance,
  leavesSubnet: leavesOwnersSubnet,
  follow: followToOwner,
  sweepKey: (target, { table }) => `address ${target.address} ${table}`,
}
