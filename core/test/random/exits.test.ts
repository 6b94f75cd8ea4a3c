import fc from 'fast-check'
import {
  compareEstates,
  exitsOf,
  isRefusal,
  readEstate,
  trace,
  writeJson,
  writeYaml,
  type ExitWay,
} from '../../src/index'
import { modelOf } from '../trace/fixtures'
import { randomEstate } from './estate'
import { runs } from './runs'

const RUNS = runs(6)

/** What a way says of its packets, as far as routes alone decide it. */
const said = (way: ExitWay): object => ({
  way: way.cause ? null : way.way,
  cause: way.cause?.code ?? null,
  object: way.cause?.object ?? null,
})

test('ways out of random estates agree with the trace of a packet, where no rule and no branch comes between', () => {
  let compared = 0
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 31 }), (seed) => {
      // Without rules and without hosts in the way, what routes say is what packets do.
      const { estate } = randomEstate(seed)
      const bare = { ...estate, estateRules: [] }
      const model = modelOf(bare, {
        subnets: Object.fromEntries(
          Object.keys(estate.subnets as object).map((id) => [
            id,
            { boundary: null, ruleSets: null },
          ]),
        ),
        interfaces: Object.fromEntries(
          Object.keys(estate.interfaces as object).map((id) => [
            id,
            { ruleSets: null, localRules: null },
          ]),
        ),
        firewalls: {
          wall: { policy: [], otherwise: 'allow' },
          gate: { policy: [], otherwise: 'allow' },
        },
        frontends: null,
      })
      for (const subnet of model.subnets) {
        if (!model.index.subnets.has(subnet.id)) continue
        const row = exitsOf(model, subnet)
        for (const way of row.internet) {
          if (way.branches > 0) continue
          const answer = trace(model, { ...way.question, port: 443 }, { evidence: false })
          if (isRefusal(answer) || answer.branches.length > 0) continue
          const direction = answer.cause?.direction === 'return' ? null : answer.cause
          expect({
            way: direction ? null : answer.way,
            cause: direction?.code ?? null,
            object: direction?.object ?? null,
          }).toEqual(said(way))
          compared++
        }
      }
    }),
    { numRuns: RUNS, seed: 11 },
  )
  expect(compared).toBeGreaterThan(100)
})

test('ranges of a subnet’s ways to the internet never overlap for one kind of host and one family', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 31 }), (seed) => {
      const model = modelOf(randomEstate(seed).estate)
      for (const subnet of model.subnets) {
        if (!model.index.subnets.has(subnet.id)) continue
        const byKind = new Map<string, string[]>()
        for (const way of exitsOf(model, subnet).internet) {
          const key = `${way.family} ${way.question.from}`
          byKind.set(key, [...(byKind.get(key) ?? []), ...(way.ranges ?? ['the rest'])])
        }
        for (const ranges of byKind.values()) expect(new Set(ranges).size).toBe(ranges.length)
      }
    }),
    { numRuns: RUNS, seed: 12 },
  )
})

test('random estates survive being written, and nothing changes by it', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 31 }), (seed) => {
      const text = JSON.stringify({
        format: 'salt-trail/1',
        name: 'Random',
        ...randomEstate(seed).estate,
      })
      const estate = readEstate([{ name: 'a', text }]).estate!
      for (const written of [writeJson(estate), writeYaml(estate)]) {
        const again = readEstate([{ name: 'b', text: written }]).estate!
        expect(again).toEqual(estate)
        expect(compareEstates(estate, again)).toEqual([])
      }
    }),
    { numRuns: runs(8), seed: 13 },
  )
})
