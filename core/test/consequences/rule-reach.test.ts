import fc from 'fast-check'
import { allCandidates, candidatesOf, compile, packetsAmong, type Estate } from '../../src/index'
import type { Rule } from '../../src/format/estate'
import { touchedBy } from '../../src/consequences/touched'
import { randomEstate } from '../random/estate'
import { random, type Random } from '../random/random'
import { estateOfJson } from '../random/read'
import { runs } from '../random/runs'
import { texts } from './row-texts'

/** The estate with one rule of one set taken out, turned round, or limited to one port. */
function withOtherRule(estate: Estate, r: Random): Estate {
  const [id, set] = r.pick([...estate.ruleSets].filter(([, one]) => one.rules?.length))
  const at = Math.floor(r.chance(50) ? 0 : set.rules!.length - 1)
  const one = set.rules![at]!
  const turned: Rule = { ...one, direction: one.direction === 'in' ? 'out' : 'in' }
  const limited: Rule = { ...one, protocol: 'tcp', ports: [443] }
  const others = r.pick<Rule[]>([[], [turned], [limited]])
  const rules = set.rules!.flatMap((rule, place) => (place === at ? others : [rule]))
  return { ...estate, ruleSets: new Map(estate.ruleSets).set(id, { ...set, rules }) }
}

test('whom a changed rule reaches is everybody whose packets differ', () => {
  let [rows, narrowed] = [0, 0]
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 30 }), (seed) => {
      const estate = estateOfJson(randomEstate(seed).estate)
      if (![...estate.ruleSets.values()].some((one) => one.rules?.length)) return
      const before = compile(estate)
      const pair = { before, after: compile(withOtherRule(estate, random(seed)), before) }
      const found = packetsAmong(pair, candidatesOf(pair))
      const all = packetsAmong(pair, allCandidates(pair))
      expect({ seed, rows: texts(found) }).toEqual({ seed, rows: texts(all) })
      rows += all.rows.length
      narrowed += touchedBy(pair).rules.size
    }),
    { numRuns: runs(12), seed: 63 },
  )
  expect(rows).toBeGreaterThan(3)
  expect(narrowed).toBeGreaterThan(3)
})
