import { allOf, estateGraph, graphDot, marksOf, MOST_OUTSIDE, MOST_UNFOLDED } from '../../src/index'
import { randomEstate } from '../random/estate'
import { modelOf } from '../trace/fixtures'

const estate = {
  networks: { shop: { ranges: ['10.1.0.0/16'] }, depot: { ranges: ['10.2.0.0/16'] } },
  regions: { north: { zones: ['a', 'b'] } },
  gateways: {
    door: { kind: 'internet', network: 'shop' },
    circuit: { kind: 'private', network: 'depot', site: 'yard' },
    stray: { kind: 'internet' },
  },
  nats: {
    tide: {
      network: 'shop',
      placement: { subnet: 'edge' },
      addresses: ['203.0.113.10'],
      state: 'pending',
    },
  },
  peerings: { pair: { a: { network: 'shop' }, b: { network: 'depot' } } },
  sites: { yard: { ranges: ['172.20.0.0/16'] } },
  services: { store: { ranges: ['198.51.100.0/26'] } },
  endpoints: { near: { style: 'routed', service: 'store', network: 'shop' } },
  subnets: {
    edge: { network: 'shop', ranges: ['10.1.0.0/24'], zone: 'a' },
    app: { network: 'shop', ranges: ['10.1.1.0/24'], zone: 'b', role: 'private' },
    shelf: { network: 'depot', ranges: ['10.2.0.0/24'] },
    gone: { network: 'depot', ranges: ['10.2.9.0/24'], state: 'deleted' },
  },
}
const many = {
  subnets: Object.fromEntries(
    Array.from({ length: MOST_UNFOLDED }, (_, i) => [
      `extra-${i}`,
      { network: 'depot', ranges: [`10.2.${16 + (i >> 4)}.${(i & 15) * 16}/28`] },
    ]),
  ),
}

test('everything that stands in the estate stands on the map, in its column', () => {
  const graph = estateGraph(modelOf(estate))
  const of = (column: string): string[] =>
    graph.nodes.filter((node) => node.column === column).map(({ ref }) => ref)
  expect(of('outside')).toEqual(['internet', 'sites/yard', 'services/store'])
  expect(of('doors')).toEqual(['gateways/door', 'gateways/circuit', 'gateways/stray'])
  expect(of('between')).toEqual(['nats/tide', 'endpoints/near'])
  expect(of('networks')).toEqual(['networks/shop', 'networks/depot'])
  expect(graph.nodes.find(({ ref }) => ref === 'nats/tide')?.up).toBe(false)
  expect(graph.nodes.find(({ ref }) => ref === 'networks/depot')?.subnets).toEqual([
    { ref: 'subnets/shelf', zone: 'all zones', role: null },
  ])
  const edges = graph.edges.map(
    ({ from, to, by }) => `${from} ${to}${by === null ? '' : ` by ${by}`}`,
  )
  expect(edges).toEqual(
    expect.arrayContaining([
      'internet gateways/door',
      'gateways/door networks/shop',
      'gateways/door nats/tide',
      'nats/tide networks/shop',
      'sites/yard gateways/circuit',
      'services/store endpoints/near',
      'networks/shop networks/depot by peerings/pair',
    ]),
  )
  expect(edges.some((edge) => edge.includes('stray') && edge.includes('networks'))).toBe(false)
})

test('of many subnets each network is one mark, unless it is opened', () => {
  const model = modelOf(estate, many)
  const folded = estateGraph(model)
  expect(folded.folds).toBe(true)
  expect(folded.nodes.map(({ ref }) => ref)).toEqual([
    'internet',
    'sites/yard',
    'services/store',
    'gateways/stray',
    'networks/shop',
    'networks/depot',
  ])
  const shop = folded.nodes.find(({ ref }) => ref === 'networks/shop')!
  expect([shop.subnets, shop.stands]).toEqual([
    null,
    ['gateways/door', 'nats/tide', 'endpoints/near', 'subnets/edge', 'subnets/app'],
  ])
  expect(folded.edges).toContainEqual({ from: 'internet', to: 'networks/shop', by: null })
  const opened = estateGraph(model, ['shop'])
  expect(opened.nodes.find(({ ref }) => ref === 'networks/shop')!.subnets).toHaveLength(2)
  expect(opened.nodes.map(({ ref }) => ref)).toContain('nats/tide')
})

test('many parties, sites or services are one mark together, unless they are opened', () => {
  const stores = Object.fromEntries(
    Array.from({ length: MOST_OUTSIDE }, (_, i) => [
      `store-${i}`,
      { ranges: [`198.51.100.${64 + i}/32`] },
    ]),
  )
  const model = modelOf(estate, { services: stores })
  const folded = estateGraph(model)
  const services = folded.nodes.find(({ ref }) => ref === 'services')!
  expect([services.about, services.stands.length]).toEqual([
    `${MOST_OUTSIDE + 1}`,
    MOST_OUTSIDE + 1,
  ])
  expect(folded.edges).toContainEqual({ from: 'services', to: 'endpoints/near', by: null })
  expect(marksOf(folded).get('services/store')).toBe('services')
  const opened = estateGraph(model, [allOf('services')])
  expect(opened.nodes.filter(({ ref }) => ref.startsWith('services'))).toHaveLength(
    MOST_OUTSIDE + 1,
  )
  expect(opened.edges).toContainEqual({ from: 'services/store', to: 'endpoints/near', by: null })
})

test('every object that packets pass has a mark, in random estates, folded or not; the same estate gives the same map', () => {
  for (let seed = 0; seed < 60; seed++) {
    const model = modelOf(randomEstate(seed).estate)
    const graph = estateGraph(model)
    expect(estateGraph(model)).toEqual(graph)
    const there = new Set(graph.nodes.map(({ ref }) => ref))
    expect(there.size).toBe(graph.nodes.length)
    for (const { from, to } of graph.edges)
      expect([there.has(from), there.has(to)]).toEqual([true, true])
    const marks = marksOf(graph)
    for (const section of [
      'subnets',
      'gateways',
      'nats',
      'firewalls',
      'transits',
      'endpoints',
      'frontends',
      'sites',
    ] as const) {
      for (const id of model.index[section].keys())
        expect([`${section}/${id}`, there.has(marks.get(`${section}/${id}`) ?? '')]).toEqual([
          `${section}/${id}`,
          true,
        ])
    }
  }
})

test('as DOT it names every mark and every join, and quotes what it must', () => {
  const graph = estateGraph(modelOf(estate))
  const dot = graphDot(graph, 'Quay "9"')
  expect(dot).toMatch(/^graph "Quay \\"9\\"" \{/)
  for (const { ref } of graph.nodes) expect(dot).toContain(`"${ref}"`)
  expect(dot).toContain('"networks/shop" -- "networks/depot" [label="pair"];')
  expect(dot).toContain('subgraph "cluster networks/shop"')
  expect(dot).toContain('"nats/tide" [label="tide\n203.0.113.10", shape=box, style=dashed];')
  expect(dot.split('{').length).toBe(dot.split('}').length)
})

test('of many subnets networks that are alike are one mark, and what differs from them its own', () => {
  const numbers = Array.from({ length: 70 }, (_, at) => at + 1)
  const spokes = {
    networks: Object.fromEntries([
      ['hub', { ranges: ['10.0.0.0/24'] }],
      ...numbers.map((at) => [`n-${at}`, { ranges: [`10.${at}.0.0/16`] }]),
    ]),
    subnets: Object.fromEntries([
      ['inside', { network: 'hub', ranges: ['10.0.0.0/25'] }],
      ...numbers.map((at) => [
        `s-${at}`,
        { network: `n-${at}`, ranges: [`10.${at}.1.0/24`], routeTable: `t-${at}` },
      ]),
    ]),
    routeTables: Object.fromEntries(
      numbers.map((at) => [
        `t-${at}`,
        {
          network: `n-${at}`,
          routes: [
            { to: '0.0.0.0/0', via: { peering: `p-${at}` } },
            { to: '10.0.0.0/24', via: at % 20 === 0 ? 'drop' : { peering: `p-${at}` } },
            { to: '192.0.2.0/24', via: 'drop' },
          ],
        },
      ]),
    ),
    peerings: Object.fromEntries(
      numbers.map((at) => [`p-${at}`, { a: { network: 'hub' }, b: { network: `n-${at}` } }]),
    ),
    firewalls: {
      wall: { style: 'inline', network: 'hub', endpoints: { one: { subnet: 'inside' } } },
    },
  }
  const model = modelOf(spokes)
  const graph = estateGraph(model)
  expect(graph.nodes.map(({ ref, name }) => `${ref}: ${name}`)).toEqual([
    'internet: internet',
    'firewalls/wall: wall',
    'networks/hub: hub',
    'alike/n-1: n-1 and 66 like it',
    'alike/n-20: n-20 and 2 like it',
  ])
  expect(graph.nodes.at(-1)!.about).toContain('route to 10.0.0.0/24 over drop')
  expect(graph.edges.filter(({ from }) => from === 'networks/hub')).toEqual([
    { from: 'networks/hub', to: 'alike/n-1', by: null },
    { from: 'networks/hub', to: 'alike/n-20', by: null },
  ])
  const marks = marksOf(graph)
  for (const ref of ['networks/n-7', 'subnets/s-7', 'peerings/p-7'])
    expect(marks.get(ref)).toBe('alike/n-1')
  const opened = estateGraph(model, ['alike/n-20', 'n-7'])
  expect(opened.nodes.map(({ ref }) => ref)).toEqual(
    expect.arrayContaining(['networks/n-7', 'networks/n-20', 'networks/n-40', 'networks/n-60']),
  )
  expect(opened.nodes.find(({ ref }) => ref === 'alike/n-1')!.name).toBe('n-1 and 65 like it')
})
