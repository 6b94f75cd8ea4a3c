import { type Add, finding, unique, type Finding } from './finding'
import { FAMILIES, checkSubnets } from './survey'

import { noWayOut } from './holes/no-way-out'
import { lostWays } from './holes/lost-ways'
import { leakService } from './leaks/service-by-internet'
import { leakDirect } from './leaks/direct'
import { leakIpv6 } from './leaks/ipv6'
import { noPublicAddress } from './holes/no-public-address'

/** Everything that is said of a subnet’s ways out from routes alone. */
export const checkWays = checkSubnets('ways out', (survey, subnet) => {
  if (!subnet.up) return []
  const found: Finding[] = []
  const add: Add = (stated) => found.push(finding(stated))
  for (const table of survey.tablesOf(subnet)) {
    for (const family of FAMILIES) {
      leakDirect(survey, subnet, table, family, add)
      lostWays(survey, subnet, table, family, add)
      noPublicAddress(survey, subnet, table, family, add)
    }
    leakIpv6(survey, subnet, table, add)
    leakService(survey, subnet, table, add)
  }
  noWayOut(survey, subnet, add)
  return unique(found)
})
