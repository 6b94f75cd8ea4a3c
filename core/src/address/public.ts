import { familyOf, highestOf, lowestOf, type Address, type Family } from './address'
import { prefixOf } from './prefix'
import { rangeSetOf, rangesContain, subtractRanges, type Range, type RangeSet } from './ranges'

const NOT_PUBLIC_V4 = rangeSetOf(
  [
    '10.0.0.0/8',
    '172.16.0.0/12',
    '192.168.0.0/16',
    '100.64.0.0/10',
    '169.254.0.0/16',
    '127.0.0.0/8',
    '0.0.0.0/8',
    '224.0.0.0/3',
  ].map(prefixOf),
)

/**
 * Every public address: design part 3. The documentation ranges count as public, so that examples
 * can use them.
 */
export const PUBLIC_SPACE: RangeSet = [
  ...subtractRanges(rangeSetOf([prefixOf('0.0.0.0/0')]), NOT_PUBLIC_V4),
  ...rangeSetOf([prefixOf('2000::/3')]),
]

/** The whole space of each family, cut where public and private addresses meet. */
export const PUBLIC_SPANS: {
  readonly [F in Family]: readonly (Range & { readonly public: boolean })[]
} = { 4: spansOf(4), 6: spansOf(6) }

function spansOf(family: Family): (Range & { public: boolean })[] {
  const all: Range = { from: lowestOf(family), to: highestOf(family) }
  const own = PUBLIC_SPACE.filter((range) => familyOf(range.from) === family)
  return [
    ...own.map((range) => ({ ...range, public: true })),
    ...subtractRanges([all], own).map((range) => ({ ...range, public: false })),
  ]
}

/** Whether an address is public (design part 3). */
export const isPublic = (address: Address): boolean =>
  typeof address === 'number' ? !rangesContain(NOT_PUBLIC_V4, address) : address >> 125n === 1n
