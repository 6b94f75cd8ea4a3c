import type { Address } from './address'
import { prefixOf } from './prefix'
import { rangeSetOf, rangesContain, subtractRanges, type RangeSet } from './ranges'

const NOT_PUBLIC_V4 = rangeSetOf(
  ['10.0.0.0/8', '172.16.0.0/12', '192.168.0.0/16', '100.64.0.0/10', '169.254.0.0/16', '127.0.0.0/8', '0.0.0.0/8', '224.0.0.0/3'].map(prefixOf),
)

/** Every public address: design part 3. The documentation ranges count as public, so that examples can use them. */
export const PUBLIC_SPACE: RangeSet = [...subtractRanges(rangeSetOf([prefixOf('0.0.0.0/0')]), NOT_PUBLIC_V4), ...rangeSetOf([prefixOf('2000::/3')])]

export const isPublic = (address: Address): boolean => (typeof address === 'number' ? !rangesContain(NOT_PUBLIC_V4, address) : address >> 125n === 1n)
