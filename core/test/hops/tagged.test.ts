import fc from 'fast-check'
import {
  hopMemo,
  hopsOf,
  type Address,
  type HopTable,
  type Model,
  type RouteModel,
} from '../../src/index'
import { shadowedAt } from '../../src/hops/hops'
import { sweep, type HopRange } from '../../src/hops/sweep'
import { randomEstate } from '../random/estate'
import { runs } from '../random/runs'
import { modelOf } from '../trace/fixtures'

/** One priority-routed network of some subnets, with routes for the tags that hosts carry. */
function tagged(subnets: number, routes: readonly Record<string, unknown>[]) {
  const ids = Array.from({ length: subnets }, (_, at) => at)
  return {
    networks: {
      net: { ranges: ['10.0.0.0/16'], behaviour: 'priority-routed', defaultRouteTable: 'table' },
    },
    subnets: Object.fromEntries(
      ids.map((at) => [`s${at}`, { network: 'net', ranges: [`10.0.${at}.0/24`] }]),
    ),
    interfaces: Object.fromEntries(
      ids.flatMap((at) => [
        [
          `h${at}`,
          { subnet: `s${at}`, addresses: [`10.0.${at}.10`], tags: { [`t${at % 4}`]: 'x' } },
        ],
        [`r${at}`, { subnet: `s${at}`, addresses: [`10.0.${at}.20`], forwards: true }],
      ]),
    ),
    gateways: { door: { kind: 'internet', network: 'net' } },
    routeTables: { table: { network: 'net', routes } },
  }
}

const DESTINATIONS = ['0.0.0.0/0', '10.0.0.0/8', '10.0.2.0/24', '192.0.2.0/24', '192.0.2.128/25']
const aRoute = fc.record({
  to: fc.constantFrom(...DESTINATIONS),
  via: fc.constantFrom<unknown>(
    'drop',
    { gateway: 'door' },
    { interface: 'r1' },
    { interface: 'r2' },
  ),
  priority: fc.constantFrom(10, 20),
  onlyTags: fc.constantFrom<string[] | undefined>(undefined, ['t0'], ['t1'], ['t2', 't0']),
})

/** What is told of ranges, neighbours that agree as one. */
function told(table: HopTable, ranges: readonly HopRange[]): string[] {
  const out: { from: Address; to: Address; says: string }[] = []
  for (const range of ranges) {
    const { winners, ways, cause, leavesBy, seenAs } = range.hop
    const routes = (list: readonly RouteModel[]): string[] =>
      list.map(({ entry, prefix }) => `${entry} ${prefix.address}/${prefix.length}`).sort()
    const lost = routes(shadowedAt(table, range))
    const says = JSON.stringify([routes(winners), lost, ways, cause, leavesBy, seenAs])
    const last = out.at(-1)
    if (last?.says === says) last.to = range.to
    else out.push({ from: range.from, to: range.to, says })
  }
  return out.map(({ from, to, says }) => `${from} ${to} ${says}`)
}

/** The ways of every kind of host, laid over those without tags, and looked up one by one. */
function compareWays(model: Model): void {
  const memo = hopMemo()
  for (const subnet of model.subnets.filter(({ up }) => up))
    for (const table of hopsOf(model, subnet, memo))
      for (const family of [4, 6] as const) {
        if (table.kind.sources[family] === null) continue
        const alone = sweep(model, subnet, table.kind, family, hopMemo(), 'alone')
        expect(told(table, table.shared[family])).toEqual(told(table, alone.ranges))
      }
}

test('ways by tags laid over those without are what all look-ups say', () => {
  fc.assert(
    fc.property(
      fc.array(aRoute, { minLength: 1, maxLength: 8 }),
      fc.integer({ min: 3, max: 6 }),
      (routes, count) => {
        const limited = routes.map(({ onlyTags, ...route }) => ({
          ...route,
          ...(onlyTags ? { onlyTags } : {}),
        }))
        compareWays(modelOf(tagged(count, limited)))
      },
    ),
    { numRuns: runs(40) },
  )
})

test('the same in random estates with every construct', () => {
  for (let seed = 0; seed < runs(12); seed++) compareWays(modelOf(randomEstate(seed).estate))
})

test('random estates have priority-routed networks whose hosts have routes by tags', () => {
  const found = Array.from({ length: 40 }, (_, seed) => modelOf(randomEstate(seed).estate)).filter(
    (model) =>
      model.networks.some(({ behaviour }) => behaviour === 'priority-routed') &&
      [...model.estate.routeTables.values()].some(({ routes = [] }) =>
        routes.some(({ onlyTags }) => onlyTags),
      ),
  )
  expect(found.length).toBeGreaterThan(3)
})
