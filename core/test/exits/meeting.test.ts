import fc from 'fast-check'
import { compile, hopMemo } from '../../src/index'
import { destinationsOf, EXIT_COLUMNS } from '../../src/exits/columns'
import { hopsOf } from '../../src/hops/hops'
import { outcomesWithin } from '../../src/hops/meet'
import { estateWithPromises } from '../random/promises'
import { runs } from '../random/runs'

test('ways of which only some ranges are listed count all others, and span the same', () => {
  let counted = 0
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 2 ** 31 }),
      fc.integer({ min: 1, max: 4 }),
      (seed, most) => {
        const model = compile(estateWithPromises(seed))
        const memo = hopMemo()
        for (const subnet of model.subnets) {
          for (const table of hopsOf(model, subnet, memo)) {
            for (const family of [4, 6] as const) {
              for (const column of EXIT_COLUMNS) {
                const meet = (most: number) =>
                  outcomesWithin(
                    model,
                    subnet,
                    table,
                    family,
                    destinationsOf(model, subnet, column),
                    memo,
                    { most },
                  )
                const [some, all] = [meet(most), meet(Infinity)]
                expect(
                  some.map(({ outcome, ranges, more, span }) => [
                    outcome,
                    ranges.length + more,
                    span,
                  ]),
                ).toEqual(all.map(({ outcome, ranges, span }) => [outcome, ranges.length, span]))
                for (const [at, { ranges, more }] of some.entries()) {
                  expect(ranges).toEqual(all[at]!.ranges.slice(0, ranges.length))
                  counted += more
                }
              }
            }
          }
        }
      },
    ),
    { numRuns: runs(12), seed: 73 },
  )
  expect(counted).toBeGreaterThan(100)
})
