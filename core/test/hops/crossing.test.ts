import fc from 'fast-check'
import {
  allHops,
  compile,
  hopMemo,
  hopsOf,
  type Address,
  type Model,
  type Range,
  type RangeSet,
} from '../../src/index'
import {
  partsWithin,
  rangeOf,
  rangeSet,
  rangeSetOf,
  subtractRanges,
} from '../../src/address/ranges'
import { outcomesWithin } from '../../src/hops/meet'
import type { Outcome } from '../../src/hops/outcome'
import { estateWithPromises } from '../random/promises'
import { runs } from '../random/runs'

const after = (address: Address, by: number): Address =>
  typeof address === 'number' ? address + by : address + BigInt(by)

/**
 * So many destinations that they are not looked for one by one: pieces of every subnet, and some
 * beside them.
 */
function scattered(model: Model, width: number): RangeSet {
  const piece = (from: Address, at: number): Range => ({
    from: after(from, at),
    to: after(from, at + width),
  })
  return rangeSet(
    model.subnets
      .flatMap((one) => one.allRanges.map(rangeOf))
      .flatMap(({ from, to }) => [piece(from, 0), piece(from, 40), piece(to, 5)]),
  )
}

/** Destinations by what becomes of packets there; of one outcome whatever their order. */
function byOutcome(
  parts: readonly { readonly outcome: Outcome; readonly ranges: readonly Range[] }[],
): Map<string, RangeSet> {
  const found = new Map<string, Range[]>()
  for (const { outcome, ranges } of parts) {
    const { ways, leavesBy, seenAs, cause, reaches } = outcome
    const key = JSON.stringify([ways, leavesBy, seenAs, cause, reaches])
    found.set(key, [...(found.get(key) ?? []), ...ranges])
  }
  return new Map(
    [...found].sort(([a], [b]) => (a < b ? -1 : 1)).map(([key, ranges]) => [key, rangeSet(ranges)]),
  )
}

test('what tables share of what lies behind transits is what each finds when everything is cut for itself', () => {
  let behind = 0
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 2 ** 31 }),
      fc.integer({ min: 0, max: 20 }),
      fc.nat(3),
      (seed, width, network) => {
        const model = compile(estateWithPromises(seed))
        const destinations = scattered(model, width)
        const without = rangeSetOf(model.networks[network]!.ranges)
        const meant = subtractRanges(destinations, without)
        const memo = hopMemo()
        for (const subnet of model.subnets) {
          for (const table of hopsOf(model, subnet, memo)) {
            for (const family of [4, 6] as const) {
              const shared = outcomesWithin(model, subnet, table, family, destinations, memo, {
                without,
              })
              const alone = allHops(model, subnet, table, family).map(({ hop, ...range }) => ({
                outcome: hop,
                ranges: partsWithin(meant, range),
              }))
              expect(byOutcome(shared)).toEqual(
                byOutcome(alone.filter(({ ranges }) => ranges.length > 0)),
              )
              for (const { ranges } of shared) expect(rangeSet(ranges)).toEqual(ranges)
              behind += table[family].filter(
                (range) => range.behind !== null && partsWithin(meant, range).length > 0,
              ).length
            }
          }
        }
      },
    ),
    { numRuns: runs(8), seed: 75 },
  )
  expect(behind).toBeGreaterThan(100)
})
