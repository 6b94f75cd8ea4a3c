import fc from 'fast-check'
import { compile, isRefusal, trace, type Estate, type Model } from '../../src/index'
import { randomEstate } from '../random/estate'
import { random, type Random } from '../random/random'
import { estateOfJson } from '../random/read'
import { edited } from './edits'
import { runs } from '../random/runs'

/** Everything a model answers with, without what it was made from. */
const answers = (model: Model, ends: readonly string[], r: Random): unknown[] =>
  Array.from({ length: 25 }, () => {
    const answer = trace(model, { from: r.pick(ends.slice(0, -2)), to: r.pick(ends), port: 443 })
    return isRefusal(answer) ? answer.message : answer
  })

test('a model made from an earlier one is the same as one made anew, change after change', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 31 }), (seed) => {
      const r = random(seed)
      const { ends, estate: json } = randomEstate(seed)
      let estate = estateOfJson(json)
      let model = compile(estate)
      answers(model, ends, random(seed))
      for (let step = 0; step < 5; step++) {
        estate = edited(estate, r)
        model = compile(estate, model)
        const anew = compile(estate)
        expect(model).toEqual(anew)
        expect(answers(model, ends, random(seed + step))).toEqual(
          answers(anew, ends, random(seed + step)),
        )
      }
    }),
    { numRuns: runs(5), seed: 21 },
  )
})

describe('what a change does not touch is taken over', () => {
  const estate = estateOfJson(randomEstate(4).estate)
  const model = compile(estate)
  const withTable = (id: string, change: object): Estate => ({
    ...estate,
    routeTables: new Map(estate.routeTables).set(id, { ...estate.routeTables.get(id)!, ...change }),
  })
  test('nothing at all: every list is the same', () => {
    const again = compile(estate, model)
    for (const part of [
      'networks',
      'subnets',
      'interfaces',
      'tables',
      'gateways',
      'nats',
      'peerings',
      'transits',
      'firewalls',
      'frontends',
      'subnetSpace',
      'entrances',
    ] as const)
      expect(again[part]).toBe(model[part])
  })
  test('a route: one table is another, the rest and the networks stay', () => {
    const again = compile(withTable('a-t0', { routes: [] }), model)
    expect(
      again.tables.filter((table, i) => table !== model.tables[i]).map((table) => table.id),
    ).toEqual(['a-t0'])
    expect(again.networks).toBe(model.networks)
    expect(again.interfaces).toBe(model.interfaces)
  })
  test('an association: one subnet is another', () => {
    const subnets = new Map(estate.subnets).set('a-s0', {
      ...estate.subnets.get('a-s0')!,
      routeTable: 'a-t1',
    })
    const again = compile({ ...estate, subnets }, model)
    expect(
      again.subnets.filter((subnet, i) => subnet !== model.subnets[i]).map((subnet) => subnet.id),
    ).toEqual(['a-s0'])
    expect(again.tables).toBe(model.tables)
    expect(again.subnetSpace).toBe(model.subnetSpace)
  })
  test('a target that is gone: only tables that lead to it are others', () => {
    const nats = new Map(estate.nats)
    nats.set('a-nat', { ...nats.get('a-nat')!, state: 'deleted' })
    const again = compile({ ...estate, nats }, model)
    const changed = again.tables.filter((table, i) => table !== model.tables[i])
    expect(
      changed.every(({ source }) =>
        source.routes!.some(({ via }) => typeof via === 'object' && via.nat === 'a-nat'),
      ),
    ).toBe(true)
    expect(changed.length).toBeLessThan(model.tables.length)
  })
})
