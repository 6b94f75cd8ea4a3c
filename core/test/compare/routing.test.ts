import fc from 'fast-check'
import { analyseStanding, compile, hopMemo, type Estate, type Model } from '../../src/index'
import { rangeSet, subtractRanges, type Range } from '../../src/address/ranges'
import { waysBetween, type RoutedState } from '../../src/compare/routing'
import { differingRanges, isOfSort, waysOfPair, type SortOfWays } from '../../src/compare/ways'
import { waysOf, type KindWays } from '../../src/hops/ways'
import { edited } from '../model/edits'
import { randomEstate } from '../random/estate'
import { random } from '../random/random'
import { estateOfJson } from '../random/read'
import { runs } from '../random/runs'

/** Sorts of ways that comparing states asks for. */
const sortsOf = ({ nats, gateways, transits, estate }: Model): SortOfWays[] => [
  { passes: () => false, ends: ({ cause }) => cause === null },
  { passes: () => false, ends: ({ cause }) => cause?.object.startsWith('subnets/') ?? false },
  {
    passes: () => false,
    ends: ({ reaches }) => estate.sites.has(reaches?.slice('sites/'.length) ?? ''),
  },
  ...[...nats, ...gateways, ...transits].map(({ ref }) => ({
    passes: (way: readonly string[]) => way.includes(ref),
    ends: () => false,
  })),
]

const rangesOfSort = (ways: KindWays, sort: SortOfWays): readonly Range[] =>
  [...ways[4], ...ways[6]].filter(({ outcome }) => isOfSort(sort, outcome))

const without = (ranges: readonly Range[], others: readonly Range[]): readonly Range[] =>
  subtractRanges(rangeSet(ranges), rangeSet(others))

/** Two states by one standing analysis, as consequences compare them. */
function routedPair(first: Estate, next: Estate): { before: RoutedState; after: RoutedState } {
  const standing = analyseStanding(first, { wantsRouting: true })
  const stateOf = (model: Model): RoutedState => ({
    model,
    ways: waysOf(model, hopMemo()),
    routing: standing.routing(),
  })
  const before = stateOf(compile(first))
  standing.change(next)
  return { before, after: stateOf(compile(next, before.model)) }
}

test('what routing says of ways holds for the ways themselves, whatever changes', () => {
  let [known, rerouted, met] = [0, 0, 0]
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 30 }), (seed) => {
      const first = estateOfJson(randomEstate(seed).estate)
      const { before, after } = routedPair(first, edited(first, random(seed)))
      const between = waysBetween(before, after)
      const alone = waysOfPair(before.model, after.model)
      for (const subnet of after.model.subnets) {
        const old = before.model.subnets[before.model.index.subnets.get(subnet.id) ?? -1]
        const told = between.routing!.rerouted(subnet.id)
        if (told === null || !old || !after.model.index.subnets.has(subnet.id)) continue
        const [olds, news] = [alone.before(old), alone.after(subnet)]
        expect(news.length).toBe(told.length)
        news.forEach((now, at) => {
          const was = olds[at]!
          const exact = ([4, 6] as const).flatMap((f) => differingRanges(was[f], now[f]))
          expect([seed, subnet.id, without(exact, told[at]!)]).toEqual([seed, subnet.id, []])
          known++
          if (exact.length > 0) rerouted++
          for (const sort of sortsOf(after.model)) {
            const ranges = [...rangesOfSort(was, sort), ...rangesOfSort(now, sort)]
            const may = between.routing!.rangesOf(sort)(subnet.id, at)
            expect([seed, subnet.id, without(ranges, may ?? ranges)]).toEqual([seed, subnet.id, []])
            if (ranges.length > 0) met++
          }
        })
      }
    }),
    { numRuns: runs(12), seed: 91 },
  )
  expect(known).toBeGreaterThan(50)
  expect(rerouted).toBeGreaterThan(0)
  expect(met).toBeGreaterThan(50)
})
