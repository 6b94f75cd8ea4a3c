import { formatPrefix, lookUp, parseAddress, type Model, type Reason } from '../../src/index'
import { modelOf } from '../trace/fixtures'

interface Asked {
  readonly subnet?: string
  readonly tags?: readonly string[]
  readonly hasPublicAddress?: boolean
}

/**
 * Every candidate at a subnet for an address, in order: what it leads to, and why it stands where
 * it stands.
 */
function candidates(
  model: Model,
  address: string,
  { subnet = 's', tags = [], hasPublicAddress = false }: Asked = {},
): [string, Reason][] {
  const found = lookUp(
    model,
    model.subnets[model.index.subnets.get(subnet)!]!,
    parseAddress(address)!,
    { hasTag: (key) => tags.includes(key), hasPublicAddress: () => hasPublicAddress },
    (route) => route.target.kind !== 'interface' || route.target.id !== 'dead',
  )
  return found.candidates().map(({ route, reason }) => {
    const target =
      'id' in route.target ? `${route.target.kind} ${route.target.id}` : route.target.kind
    return [`${formatPrefix(route.prefix)} ${route.origin} ${target}`, reason]
  })
}

const world = (behaviour: string, routes: unknown[], more: Record<string, unknown> = {}) =>
  modelOf({
    networks: {
      n: { ranges: ['10.1.0.0/16'], behaviour, defaultRouteTable: 't' },
      peer: { ranges: ['10.2.0.0/16', '10.1.64.0/20'] },
    },
    subnets: {
      s: { network: 'n', ranges: ['10.1.1.0/24'] },
      far: { network: 'peer', ranges: ['10.2.1.0/24'] },
    },
    routeTables: { t: { network: 'n', learn: 'all', routes } },
    peerings: { p: { a: { network: 'n' }, b: { network: 'peer' } } },
    sites: { harbour: { ranges: ['172.20.0.0/16', '10.1.9.0/24', '192.0.2.0/24'] } },
    gateways: {
      circuit: { kind: 'private', network: 'n', site: 'harbour' },
      door: { kind: 'internet', network: 'n' },
    },
    services: { store: { ranges: ['198.51.100.0/26'] } },
    ...more,
  })

describe('table-routed', () => {
  test('a table route of the same or a longer prefix overrides local, a shorter one does not', () => {
    expect(
      candidates(world('table-routed', [{ to: '10.1.1.0/24', via: 'drop' }]), '10.1.1.9'),
    ).toEqual([
      ['10.1.1.0/24 table drop', 'won'],
      ['10.1.0.0/16 built-in local', 'shorter-prefix'],
    ])
    expect(
      candidates(world('table-routed', [{ to: '10.1.0.0/16', via: 'drop' }]), '10.1.1.9')[0],
    ).toEqual(['10.1.0.0/16 table drop', 'won'])
    expect(
      candidates(world('table-routed', [{ to: '10.0.0.0/8', via: 'drop' }]), '10.1.1.9'),
    ).toEqual([
      ['10.1.0.0/16 built-in local', 'won'],
      ['10.0.0.0/8 table drop', 'shorter-prefix'],
    ])
  })
  test('beside a matching local route, learned ones are no candidates, whatever their length', () => {
    expect(candidates(world('table-routed', []), '10.1.9.9')).toEqual([
      ['10.1.0.0/16 built-in local', 'won'],
      ['10.1.9.0/24 learned gateway circuit', 'local-excludes'],
    ])
  })
  test('the longest prefix wins, then table before learned', () => {
    expect(
      candidates(
        world('table-routed', [
          { to: '192.0.2.0/24', via: 'drop' },
          { to: '0.0.0.0/0', via: { gateway: 'door' } },
        ]),
        '192.0.2.9',
      ),
    ).toEqual([
      ['192.0.2.0/24 table drop', 'won'],
      ['192.0.2.0/24 learned gateway circuit', 'later-origin'],
      ['0.0.0.0/0 table gateway door', 'shorter-prefix'],
    ])
  })
  test('a peering brings no route by itself', () => {
    expect(candidates(world('table-routed', []), '10.2.1.9')).toEqual([])
  })
  test('a route with a dead target still wins', () => {
    expect(
      candidates(
        world('table-routed', [{ to: '0.0.0.0/0', via: { nat: 'gone' } }]),
        '198.51.100.200',
      ),
    ).toEqual([['0.0.0.0/0 table nat gone', 'won']])
  })
  test('a route that is not up is no candidate; a deleted one is not there', () => {
    const routes = [
      { to: '192.0.2.0/25', via: 'drop', state: 'pending' },
      { to: '192.0.2.0/26', via: 'drop', state: 'deleted' },
    ]
    expect(candidates(world('table-routed', routes), '192.0.2.9')).toEqual([
      ['192.0.2.0/24 learned gateway circuit', 'won'],
      ['192.0.2.0/25 table drop', 'not-in-force'],
    ])
  })
  test('a service stands for its ranges, a list for its prefixes', () => {
    const model = world(
      'table-routed',
      [
        { to: { service: 'store' }, via: 'drop' },
        { to: { prefixList: 'l' }, via: 'local' },
      ],
      { prefixLists: { l: { ranges: ['192.0.3.0/24', '192.0.4.0/24'] } } },
    )
    expect(candidates(model, '198.51.100.1')).toEqual([['198.51.100.0/26 table drop', 'won']])
    expect(candidates(model, '192.0.4.1')).toEqual([['192.0.4.0/24 table local', 'won']])
  })
  test('equal prefixes of two learned sources are of equal cost', () => {
    const model = world('table-routed', [], {
      gateways: {
        c1: { kind: 'private', network: 'n', site: 'harbour' },
        c2: { kind: 'private', network: 'n', site: 'harbour' },
      },
    })
    expect(candidates(model, '172.20.1.1')).toEqual([
      ['172.20.0.0/16 learned gateway c1', 'equal-cost'],
      ['172.20.0.0/16 learned gateway c2', 'equal-cost'],
    ])
  })
  test('the service switch is overridden by nothing of its length', () => {
    const model = world(
      'table-routed',
      [
        { to: '198.51.100.0/26', via: 'drop' },
        { to: '198.51.100.0/28', via: 'drop' },
      ],
      { subnets: { s: { network: 'n', ranges: ['10.1.1.0/24'], privateServices: ['store'] } } },
    )
    expect(candidates(model, '198.51.100.60')).toEqual([
      ['198.51.100.0/26 built-in service-switch store', 'won'],
      ['198.51.100.0/26 table drop', 'later-origin'],
    ])
    expect(candidates(model, '198.51.100.1')[0]).toEqual(['198.51.100.0/28 table drop', 'won'])
  })
})

describe('default-open', () => {
  test('what is built in', () => {
    const model = world('default-open', [])
    expect(candidates(model, '8.8.8.8')).toEqual([['0.0.0.0/0 built-in internet', 'won']])
    expect(candidates(model, '10.2.1.1')).toEqual([
      ['10.2.0.0/16 built-in peering p', 'won'],
      ['10.0.0.0/8 built-in drop', 'shorter-prefix'],
      ['0.0.0.0/0 built-in internet', 'shorter-prefix'],
    ])
    expect(candidates(model, '192.168.1.1')[0]).toEqual(['192.168.0.0/16 built-in drop', 'won'])
  })
  test('beside local, a peering is no candidate either', () => {
    const found = candidates(world('default-open', []), '10.1.64.1')
    expect(found[0]).toEqual(['10.1.0.0/16 built-in local', 'won'])
    expect(found).toContainEqual(['10.1.64.0/20 built-in peering p', 'local-excludes'])
  })
  test('table, then learned, then built-in', () => {
    const drop = { to: '172.20.0.0/16', via: 'drop' }
    expect(candidates(world('default-open', [drop]), '172.20.0.1').slice(0, 2)).toEqual([
      ['172.20.0.0/16 table drop', 'won'],
      ['172.20.0.0/16 learned gateway circuit', 'later-origin'],
    ])
    const wide = { sites: { harbour: { ranges: ['172.16.0.0/12'] } } }
    expect(candidates(world('default-open', [], wide), '172.16.0.1').slice(0, 2)).toEqual([
      ['172.16.0.0/12 learned gateway circuit', 'won'],
      ['172.16.0.0/12 built-in drop', 'later-origin'],
    ])
  })
  test('a subnet without a table learns from all', () => {
    const networks = {
      n: { ranges: ['10.1.0.0/16'], behaviour: 'default-open' },
      peer: { ranges: ['10.2.0.0/16'] },
    }
    expect(
      candidates(world('default-open', [], { networks, routeTables: {} }), '172.20.0.1')[0],
    ).toEqual(['172.20.0.0/16 learned gateway circuit', 'won'])
  })
})

describe('priority-routed', () => {
  test('nothing overrides a built-in local route, nor a peering', () => {
    const model = world('priority-routed', [
      { to: '10.1.1.0/28', via: 'drop', priority: 1 },
      { to: '10.2.1.0/28', via: 'drop', priority: 1 },
    ])
    expect(candidates(model, '10.1.1.1')).toEqual([
      ['10.1.1.0/24 built-in local', 'won'],
      ['10.1.1.0/28 table drop', 'built-in-stands'],
    ])
    expect(candidates(model, '10.2.1.1')).toEqual([
      ['10.2.1.0/24 built-in peering p', 'won'],
      ['10.2.1.0/28 table drop', 'built-in-stands'],
    ])
  })
  test('local is per subnet: between subnets the table counts', () => {
    expect(
      candidates(world('priority-routed', [{ to: '10.0.0.0/8', via: 'drop' }]), '10.1.200.1'),
    ).toEqual([['10.0.0.0/8 table drop', 'won']])
  })
  test('the longest prefix, then the lowest priority; learned ones have 1000', () => {
    const routes = [
      { to: '172.20.0.0/16', via: { gateway: 'door' }, priority: 900 },
      { to: '172.20.0.0/16', via: 'drop', priority: 1100 },
      { to: '172.0.0.0/8', via: 'drop', priority: 1 },
    ]
    expect(candidates(world('priority-routed', routes), '172.20.0.1')).toEqual([
      ['172.20.0.0/16 table gateway door', 'won'],
      ['172.20.0.0/16 learned gateway circuit', 'higher-priority-number'],
      ['172.20.0.0/16 table drop', 'higher-priority-number'],
      ['172.0.0.0/8 table drop', 'shorter-prefix'],
    ])
  })
  test('equal after that is of equal cost', () => {
    const routes = [
      { to: '192.0.3.0/24', via: 'drop' },
      { to: '192.0.3.0/24', via: { gateway: 'door' } },
    ]
    expect(
      candidates(world('priority-routed', routes), '192.0.3.1').map(([, reason]) => reason),
    ).toEqual(['equal-cost', 'equal-cost'])
  })
  test('tags limit a route', () => {
    const model = world('priority-routed', [
      { to: '192.0.3.0/24', via: 'drop', onlyTags: ['a', 'b'] },
    ])
    expect(candidates(model, '192.0.3.1')).toEqual([['192.0.3.0/24 table drop', 'tag-not-carried']])
    expect(candidates(model, '192.0.3.1', { tags: ['b'] })).toEqual([
      ['192.0.3.0/24 table drop', 'won'],
    ])
  })
  test('a next hop that is not up is passed over', () => {
    const routes = [
      { to: '192.0.3.0/24', via: { interface: 'dead' }, priority: 1 },
      { to: '192.0.3.0/24', via: 'drop', priority: 2 },
    ]
    expect(candidates(world('priority-routed', routes), '192.0.3.1')).toEqual([
      ['192.0.3.0/24 table drop', 'won'],
      ['192.0.3.0/24 table interface dead', 'next-hop-passed-over'],
    ])
  })
  test('the service switch acts where an internet gateway wins and the host has no public address', () => {
    const model = world('priority-routed', [{ to: '0.0.0.0/0', via: { gateway: 'door' } }], {
      subnets: { s: { network: 'n', ranges: ['10.1.1.0/24'], privateServices: 'all' } },
    })
    expect(candidates(model, '198.51.100.1')).toEqual([
      ['198.51.100.0/26 built-in service-switch store', 'won'],
      ['0.0.0.0/0 table gateway door', 'switched'],
    ])
    expect(candidates(model, '198.51.100.1', { hasPublicAddress: true })).toEqual([
      ['0.0.0.0/0 table gateway door', 'won'],
    ])
  })
})

test('routes are learned by what a table names, from lent gateways, and from transits', () => {
  const model = modelOf({
    networks: {
      n: { ranges: ['10.1.0.0/16'], defaultRouteTable: 't' },
      hub: { ranges: ['10.9.0.0/16'] },
      side: { ranges: ['10.3.0.0/16'] },
    },
    subnets: { s: { network: 'n', ranges: ['10.1.1.0/24'] } },
    routeTables: { t: { network: 'n', learn: ['circuit', 'router'] } },
    peerings: {
      p: { a: { network: 'n', usesPeerGateway: true }, b: { network: 'hub', lendsGateway: true } },
    },
    sites: { harbour: { ranges: ['172.20.0.0/16'] } },
    gateways: {
      circuit: { kind: 'private', network: 'hub', site: 'harbour' },
      other: { kind: 'private', network: 'n', learned: ['172.30.0.0/16'] },
    },
    transits: {
      router: {
        attachments: {
          mine: { network: 'n', table: 'spokes' },
          side: { network: 'side', table: 'spokes' },
        },
        tables: {
          spokes: {
            learn: ['side', 'mine'],
            routes: [
              { to: '192.0.2.0/24', via: 'side' },
              { to: '192.0.3.0/24', via: 'drop' },
            ],
          },
        },
      },
    },
  })
  expect(candidates(model, '172.20.0.1')).toEqual([['172.20.0.0/16 learned peering p', 'won']])
  expect(candidates(model, '172.30.0.1')).toEqual([])
  expect(candidates(model, '10.3.0.1')).toEqual([['10.3.0.0/16 learned transit router', 'won']])
  expect(candidates(model, '192.0.2.1')).toEqual([['192.0.2.0/24 learned transit router', 'won']])
  expect(candidates(model, '192.0.3.1')).toEqual([])
})
