import fc from 'fast-check'
import {
  analyseStanding,
  compile,
  exitsOf,
  findAll,
  hopMemo,
  shareWith,
  type Estate,
  type Standing,
} from '../../src/index'
import { edited } from '../model/edits'
import { randomEstate } from '../random/estate'
import { estateWithPromises } from '../random/promises'
import { estateOfJson } from '../random/read'
import { random } from '../random/random'
import { runs } from '../random/runs'

/** The same from an analysis that knows nothing of what was before. */
function anew(estate: Estate): Standing {
  const model = compile(estate)
  const memo = hopMemo()
  const exits = model.subnets
    .filter(({ id }) => model.index.subnets.has(id))
    .map((subnet) => exitsOf(model, subnet, memo))
  return { exits, ...findAll(model, memo)! }
}

test('after any change a standing analysis says what a full one says', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 31 }), (seed) => {
      const r = random(seed)
      let estate = estateWithPromises(seed)
      const { standing, change } = analyseStanding(estate)
      expect(standing()).toEqual(anew(estate))
      const states = [estate]
      for (let step = 0; step < 5; step++) {
        // The last step leads elsewhere: to a change of a state that is long gone.
        estate = edited(step < 4 ? estate : r.pick(states), r)
        states.push(estate)
        change(estate)
        expect(standing()).toEqual(anew(estate))
      }
    }),
    // Estates in which a change was once not seen.
    {
      numRuns: runs(4),
      seed: Number(process.env.SALT_TRAIL_SEED ?? 71),
      examples: [[550165981], [1214603154], [648017667], [1911551792]],
    },
  )
})

test('a change tells what came, what went and what became another, and undone brings all back', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 31 }), (seed) => {
      const first = estateWithPromises(seed)
      const { standing, change } = analyseStanding(first)
      const before = standing()
      const there = change(edited(first, random(seed)))
      const changed = standing()
      const prints = (one: Standing): string[] =>
        one.findings.map((each) => each.fingerprint).sort()
      const gone = new Set(there.findingsGone.map((each) => each.fingerprint))
      const come = there.findingsCome.map((each) => each.fingerprint)
      expect(
        prints(before)
          .filter((each) => !gone.has(each))
          .concat(come)
          .sort(),
      ).toEqual(prints(changed))
      const back = change(first)
      expect(standing()).toEqual(before)
      expect(back.findingsCome).toEqual(there.findingsGone)
      expect(back.findingsGone).toEqual(there.findingsCome)
      const turned = there.exits.map(({ subnet, before: was, now }) => ({
        subnet,
        before: now,
        now: was,
      }))
      const bySubnet = (a: { subnet: string }, b: { subnet: string }): number =>
        a.subnet < b.subnet ? -1 : 1
      expect([...back.exits].sort(bySubnet)).toEqual(turned.sort(bySubnet))
    }),
    { numRuns: runs(3), seed: 72 },
  )
})

test('an estate read again shares every object with the one before, and one that differs all others', () => {
  const json = randomEstate(8).estate as { routeTables: Record<string, { routes: unknown[] }> }
  const before = estateOfJson(json)
  const again = shareWith(before, estateOfJson(json))
  for (const section of Object.keys(before) as (keyof Estate)[])
    expect(again[section]).toBe(before[section])
  const [first] = Object.keys(json.routeTables)
  const changed = shareWith(
    before,
    estateOfJson({
      ...json,
      routeTables: { ...json.routeTables, [first!]: { ...json.routeTables[first!], routes: [] } },
    }),
  )
  expect(
    [...changed.routeTables]
      .filter(([id, table]) => before.routeTables.get(id) !== table)
      .map(([id]) => id),
  ).toEqual([first])
  expect(changed.subnets).toBe(before.subnets)
  const { change } = analyseStanding(before)
  expect(change(again)).toEqual({
    exits: [],
    findingsCome: [],
    findingsGone: [],
    findingsOther: [],
    expectations: [],
  })
})

test('a subnet that leaves a table it shares with another is looked at again', () => {
  const subnet = { network: 'n', ranges: ['10.1.1.0/24'], ruleSets: ['open'] }
  const json = {
    networks: { n: { ranges: ['10.1.0.0/16'], defaultRouteTable: 'empty' } },
    routeTables: {
      empty: { network: 'n' },
      out: { network: 'n', routes: [{ to: '0.0.0.0/0', via: { gateway: 'door' } }] },
    },
    gateways: { door: { network: 'n', kind: 'internet' } },
    ruleSets: { open: { rules: [{ direction: 'out', protocol: 'any' }] } },
    subnets: { first: { ...subnet, ranges: ['10.1.2.0/24'] }, s: subnet },
    interfaces: {
      other: { subnet: 'first', addresses: ['10.1.2.5'] },
      host: { subnet: 's', addresses: ['10.1.1.5'] },
    },
  }
  const before = estateOfJson(json)
  const after = estateOfJson({
    ...json,
    subnets: { ...json.subnets, s: { ...subnet, routeTable: 'out' } },
  })
  const { standing, change } = analyseStanding(before)
  change(shareWith(before, after))
  expect(standing()).toEqual(anew(after))
  expect(standing().findings).not.toEqual(anew(before).findings)
})

test('from one state to another that lacks a network without subnets, and back', () => {
  const json = { networks: { a: { ranges: ['10.1.0.0/16'] } } }
  const one = estateOfJson(json)
  const both = estateOfJson({ networks: { ...json.networks, b: { ranges: ['10.2.0.0/16'] } } })
  const { standing, change } = analyseStanding(one)
  for (const estate of [both, one, both]) {
    change(shareWith(one, estate))
    expect(standing()).toEqual(anew(estate))
  }
})
