import { hopMemo, hopsOf, type Address, type Model } from '../../src/index'
import { sweep, type HopRange } from '../../src/hops/sweep'
import { randomEstate } from '../random/estate'
import { runs } from '../random/runs'
import { modelOf } from '../trace/fixtures'
import { generateShape } from '../../../scripts/generator/shapes'

const face = ({ hop: { winners, ways, cause, leavesBy, seenAs, reaches } }: HopRange): string =>
  JSON.stringify([winners.map(({ entry }) => entry), ways, cause, leavesBy, seenAs, reaches])

/**
 * Every range of every sweep, in which walks go on from where earlier ones first differed, against
 * walks that begin anew for its first and its last address; `each` leaves some ranges out.
 */
function compareWithFresh(model: Model, each = 1): number {
  const memo = hopMemo()
  let asked = 0
  for (const subnet of model.subnets.filter(({ up }) => up))
    for (const { kind, shared } of hopsOf(model, subnet, memo))
      for (const family of [4, 6] as const)
        for (const range of shared[family].filter((_, at) => at % each === 0)) {
          const alone = (at: Address): string =>
            face(
              sweep(model, subnet, kind, family, hopMemo(), 'alone', [{ from: at, to: at }])
                .ranges[0]!,
            )
          expect([range.from, alone(range.from)]).toEqual([range.from, face(range)])
          expect([range.to, alone(range.to)]).toEqual([range.to, face(range)])
          asked += 2
        }
  return asked
}

test('walks that go on from earlier ones end as walks that begin anew, in random estates', () => {
  let asked = 0
  for (let seed = 0; seed < runs(8); seed++)
    asked += compareWithFresh(modelOf(randomEstate(seed).estate))
  expect(asked).toBeGreaterThan(1000)
})

test('the same along a row of forwarders with two routes of equal cost each', () => {
  expect(compareWithFresh(modelOf(generateShape('chains', 20).estate), 5)).toBeGreaterThan(50)
})
