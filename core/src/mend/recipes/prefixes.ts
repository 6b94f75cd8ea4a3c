import { formatAddress } from '../../address/address'
import { covers, host, type Situation } from '../situation'

/** The smallest range of the estate that a destination lies in; everything for the internet. */
export function narrowPrefix({ estate, dst }: Pick<Situation, 'estate' | 'dst'>): string {
  const sections = [
    ...estate.subnets.values(),
    ...estate.services.values(),
    ...estate.sites.values(),
    ...estate.networks.values(),
  ]
  const own = sections.find((one) => covers(one.ranges, dst))
  const range = own?.ranges?.find((text) => covers([text], dst))
  if (range !== undefined) return range
  const isKnown = [...estate.parties.values()].some((one) => covers(one.ranges, dst))
  if (isKnown || typeof dst === 'number') return typeof dst === 'number' ? '0.0.0.0/0' : '::/0'
  return dst >> 125n === 1n ? '::/0' : host(formatAddress(dst))
}
