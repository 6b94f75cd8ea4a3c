import fc from 'fast-check'
import { isRefusal, trace, verdictRank, type Trace } from '../../src/index'
import { modelOf } from '../trace/fixtures'
import { randomEstate } from './estate'
import { random } from './random'
import { runs } from './runs'

const RUNS = runs(25)
const QUESTIONS = 50

const said = ({ verdict, cause, way, leavesBy, seenAs }: Trace): object => ({
  verdict,
  cause,
  way,
  leavesBy,
  seenAs,
})

test('no estate, however tangled, makes a walk run for ever, throw, or answer without a reason', () => {
  const seen = new Map<string, number>()
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 31 }), (seed) => {
      const { estate, ends } = randomEstate(seed)
      const model = modelOf(estate)
      const r = random(seed + 1)
      for (let i = 0; i < QUESTIONS; i++) {
        const question = {
          from: r.pick(ends.slice(0, -2)),
          to: r.pick(ends),
          protocol: r.pick(['tcp', 'tcp', 'udp']),
          port: r.pick([443, 8443, 22]),
          sourcePort: r.pick([null, 500]),
          continue: r.chance(50),
        }
        const answer = trace(model, question)
        if (isRefusal(answer)) {
          expect(answer.message.length).toBeGreaterThan(20)
          continue
        }
        const code = answer.cause?.code ?? 'none'
        seen.set(code, (seen.get(code) ?? 0) + 1)
        expect(answer.verdict === 'works').toBe(answer.cause === null)
        if (answer.cause) {
          const lane = answer.cause.direction === 'forward' ? answer.forward : answer.return!
          expect(answer.cause.object).not.toBe('')
          expect(answer.cause.station).toBeGreaterThanOrEqual(0)
          expect(answer.cause.station).toBeLessThan(lane.stations.length)
        }
        const paths = answer.branches.length > 0 ? answer.branches : [answer]
        for (const path of paths)
          expect(path.seenAs.length > 0).toBe(path.forward.outcome === 'delivered')
        expect(new Set(answer.seenAs)).toEqual(new Set(paths.flatMap((path) => path.seenAs)))
        for (const branch of answer.branches)
          expect(verdictRank(branch.verdict)).toBeLessThanOrEqual(verdictRank(answer.verdict))
        // Going on beyond faults changes nothing of what is said of the path.
        const other = trace(
          model,
          { ...question, continue: !question.continue },
          { evidence: false },
        )
        if (!isRefusal(other)) expect(said(other)).toEqual(said(answer))
      }
    }),
    { numRuns: RUNS, seed: 7 },
  )
  // The estates are tangled enough to meet most of what can go wrong.
  expect(seen.size).toBeGreaterThan(25)
  if (process.env.SALT_TRAIL_RANDOM_ESTATES)
    console.log(
      [...seen]
        .sort((a, b) => b[1] - a[1])
        .map(([code, n]) => `${n} ${code}`)
        .join('\n'),
    )
})
