import { estateGraph, graphBetween, joinKey } from '../../src/index'
import { randomEstate } from '../random/estate'
import { runs } from '../random/runs'
import { modelOf } from '../trace/fixtures'

const YARD = {
  networks: { shop: { ranges: ['10.1.0.0/16'] }, depot: { ranges: ['10.2.0.0/16'] } },
  subnets: {
    edge: { network: 'shop', ranges: ['10.1.0.0/24'] },
    app: { network: 'shop', ranges: ['10.1.1.0/24'] },
    shelf: { network: 'depot', ranges: ['10.2.0.0/24'] },
  },
  gateways: { door: { kind: 'internet', network: 'shop' } },
  nats: { tide: { network: 'shop', placement: { subnet: 'edge' }, addresses: ['203.0.113.10'] } },
  peerings: { pair: { a: { network: 'shop' }, b: { network: 'depot' } } },
}
const graphOf = (estate: Record<string, unknown>) => estateGraph(modelOf(estate))

test('what goes stands beside what comes, and what is otherwise is named', () => {
  const { subnets, nats, peerings, ...rest } = YARD
  const { app: _, ...left } = subnets
  const after = {
    ...rest,
    subnets: { ...left, desk: { network: 'shop', ranges: ['10.1.2.0/24'] } },
    nats: { ebb: { ...nats.tide, state: 'down' } },
    gateways: { door: { ...YARD.gateways.door, state: 'down' } },
    peerings: { second: peerings.pair },
  }
  const { graph, changes } = graphBetween(graphOf(YARD), graphOf(after))
  expect(Object.fromEntries([...changes].filter(([key]) => !key.includes(' ')))).toEqual({
    'nats/tide': 'removed',
    'nats/ebb': 'added',
    'gateways/door': 'altered',
    'subnets/app': 'removed',
    'subnets/desk': 'added',
  })
  expect(
    graph.nodes.find(({ ref }) => ref === 'networks/shop')!.subnets!.map((one) => one.ref),
  ).toEqual(['subnets/edge', 'subnets/app', 'subnets/desk'])
  const fate = (by: string) => changes.get(joinKey(graph.edges.find((edge) => edge.by === by)!))
  expect([fate('peerings/pair'), fate('peerings/second')]).toEqual(['removed', 'added'])
})

test('no difference between a state and itself, and none of it is lost between any two', () => {
  for (let seed = 1; seed <= runs(20); seed++) {
    const [one, other] = [
      graphOf(randomEstate(seed).estate),
      graphOf(randomEstate(seed + 1).estate),
    ]
    const same = graphBetween(one, one)
    expect([same.graph, same.changes.size]).toEqual([one, 0])
    const { graph, changes } = graphBetween(one, other)
    const own = (fate: string) => [...changes].filter(([, is]) => is === fate).map(([key]) => key)
    const keys = ({ nodes, edges }: typeof one): string[] => [
      ...nodes.flatMap(({ ref, subnets }) => [ref, ...(subnets ?? []).map((at) => at.ref)]),
      ...edges.map(joinKey),
    ]
    const [was, now] = [keys(one), keys(other)]
    const without = (a: string[], b: string[]): string[] => {
      const left = new Set(b)
      return [...new Set(a)].filter((key) => !left.has(key)).sort()
    }
    expect(own('removed').sort()).toEqual(without(was, now))
    expect(own('added').sort()).toEqual(without(now, was))
    expect([...new Set(keys(graph))].sort()).toEqual([...new Set([...was, ...now])].sort())
  }
})
