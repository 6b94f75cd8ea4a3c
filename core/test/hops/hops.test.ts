import fc from 'fast-check'
import {
  allHops,
  formatAddress,
  highestOf,
  hopMemo,
  hopsOf,
  isRefusal,
  lowestOf,
  nextAddress,
  trace,
  type HopRange,
  type Model,
} from '../../src/index'
import { randomEstate } from '../random/estate'
import { random } from '../random/random'
import { modelOf } from '../trace/fixtures'
import { runs } from '../random/runs'

const RUNS = runs(7)

/** A random estate without rules, so that routes alone decide. */
function bare(seed: number): Model {
  const { estate } = randomEstate(seed)
  return modelOf(
    { ...estate, estateRules: [] },
    {
      subnets: Object.fromEntries(
        Object.keys(estate.subnets as object).map((id) => [id, { boundary: null, ruleSets: null }]),
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
    },
  )
}

test('the effective next hops are the whole space, without gap or overlap, and in the fewest ranges', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 31 }), (seed) => {
      const model = bare(seed)
      const memo = hopMemo()
      for (const subnet of model.subnets) {
        if (!model.index.subnets.has(subnet.id)) continue
        for (const table of hopsOf(model, subnet, memo)) {
          for (const family of [4, 6] as const) {
            const ranges = allHops(model, subnet, table, family, memo)
            if (ranges.length === 0) continue
            expect(ranges[0]!.from).toBe(lowestOf(family))
            expect(ranges.at(-1)!.to).toBe(highestOf(family))
            for (let i = 1; i < ranges.length; i++) {
              expect(ranges[i]!.from).toBe(nextAddress(ranges[i - 1]!.to))
              expect(said(ranges[i]!)).not.toBe(said(ranges[i - 1]!))
            }
          }
        }
      }
    }),
    { numRuns: RUNS, seed: 41 },
  )
})

const said = ({ hop }: HopRange): string =>
  `${hop.winners.map((r) => `${r.origin} ${r.table} ${r.entry} ${formatAddress(r.prefix.address)}/${r.prefix.length} ${r.learnedFrom}`).join()}|${hop.shadowed.length}|${hop.ways.join(';')}|${hop.leavesBy}|${hop.seenAs.join()}|${JSON.stringify(hop.cause)}|${hop.reaches}`

test('a packet’s trace goes the way the effective next hops say', () => {
  let compared = 0
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 31 }), (seed) => {
      const model = bare(seed)
      const r = random(seed)
      const memo = hopMemo()
      for (const subnet of model.subnets) {
        if (!model.index.subnets.has(subnet.id) || !subnet.up) continue
        for (const table of hopsOf(model, subnet, memo)) {
          const [first] = table.kind.interfaces
          if (first === undefined) continue
          for (const family of [4, 6] as const) {
            const ranges = allHops(model, subnet, table, family, memo)
            for (let i = 0; i < 12 && ranges.length > 0; i++) {
              const range = r.pick(ranges)
              const dst = r.chance(50) ? range.from : range.to
              const source = table.kind.sources[family]!
              const answer = trace(
                model,
                {
                  from: `interface:${model.interfaces[first]!.id}@${formatAddress(source)}`,
                  to: formatAddress(dst),
                  protocol: 'tcp',
                  port: 443,
                },
                { evidence: false },
              )
              // What the estate itself has out there comes in again, which is no next hop of this
              // subnet; a host there may not be up, or be a translator.
              if (
                isRefusal(answer) ||
                answer.branches.length > 0 ||
                range.hop.ways.length > 1 ||
                model.publicOwners.has(dst) ||
                model.inventory.has(dst)
              )
                continue
              if (model.networks.some((n) => n.owners.has(dst))) continue
              const way = range.hop.ways[0]!
              const cause =
                answer.cause?.direction === 'forward'
                  ? { code: answer.cause.code, object: answer.cause.object }
                  : null
              const comesIn =
                range.hop.reaches === 'internet' &&
                answer.forward.stations.at(-1)!.at !== 'internet' &&
                !/^(services|parties)/.test(answer.forward.stations.at(-1)!.at)
              if (
                comesIn ||
                (answer.cause?.code === 'interface-not-up' && range.hop.cause === null)
              )
                continue
              const hop =
                range.hop.cause === null
                  ? null
                  : { code: range.hop.cause.code, object: range.hop.cause.object }
              expect({
                seed,
                from: subnet.id,
                dst: formatAddress(dst),
                way: answer.way,
                cause,
              }).toEqual({
                seed,
                from: subnet.id,
                dst: formatAddress(dst),
                way,
                cause: hop,
              })
              compared++
            }
          }
        }
      }
    }),
    { numRuns: RUNS, seed: 42 },
  )
  expect(compared).toBeGreaterThan(1000)
})

test('what subnets share is what each would find alone', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 31 }), (seed) => {
      const model = bare(seed)
      const memo = hopMemo()
      for (const subnet of model.subnets) {
        if (!model.index.subnets.has(subnet.id)) continue
        const shared = hopsOf(model, subnet, memo)
        const alone = hopsOf(model, subnet)
        for (const [at, table] of shared.entries())
          for (const family of [4, 6] as const) {
            const text = (ranges: readonly HopRange[]): string[] =>
              ranges.map((range) => `${formatAddress(range.from)} ${said(range)}`)
            expect({
              seed,
              subnet: subnet.id,
              ranges: text(allHops(model, subnet, table, family, memo)),
            }).toEqual({
              seed,
              subnet: subnet.id,
              ranges: text(allHops(model, subnet, alone[at]!, family)),
            })
          }
      }
    }),
    { numRuns: RUNS, seed: 43 },
  )
})
