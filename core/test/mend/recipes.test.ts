import { remove } from '../../src/mend/recipes/removal'
import {
  addRoute,
  appendRoutes,
  newTable,
  removeRoutes,
  setRoute,
} from '../../src/mend/recipes/routes'
import { leadNatOut, leaveByNat, leaveInZone } from '../../src/mend/recipes/associations'
import { closeIpv6, useEndpoint } from '../../src/mend/recipes/steering'
import { giveTags, keepAddress, linkZone, sharePorts } from '../../src/mend/recipes/upkeep'
import type { Situation } from '../../src/mend/situation'
import { made } from '../changes/made'
import { modelOf } from '../trace/fixtures'

const ESTATE = {
  format: 'salt-trail/1',
  name: 'Recipes',
  regions: { south: { zones: ['south-1', 'south-2'] } },
  networks: {
    shop: { ranges: ['10.1.0.0/16', '2001:db8:1::/56'], defaultRouteTable: 'spare' },
    open: { ranges: ['10.2.0.0/16'], behaviour: 'default-open' },
    empty: { ranges: ['10.3.0.0/16'] },
  },
  subnets: {
    edge: { network: 'shop', ranges: ['10.1.0.0/24'], routeTable: 'out', zone: 'south-1' },
    front: { network: 'shop', ranges: ['10.1.1.0/24'], routeTable: 'inside', zone: 'south-1' },
    back: { network: 'shop', ranges: ['10.1.2.0/24'], routeTable: 'bare', zone: 'south-2' },
    quay: { network: 'open', ranges: ['10.2.1.0/24'], routeTable: 'quays' },
  },
  routeTables: {
    out: { network: 'shop', routes: [{ to: '0.0.0.0/0', via: { gateway: 'door' } }] },
    inside: {
      network: 'shop',
      routes: [
        { to: '0.0.0.0/0', via: { nat: 'tide' } },
        { to: '::/0', via: { gateway: 'door' } },
      ],
    },
    bare: { network: 'shop' },
    spare: { network: 'shop' },
    quays: { network: 'open', routes: [] },
  },
  gateways: { door: { kind: 'internet', network: 'shop' } },
  nats: {
    tide: {
      network: 'shop',
      placement: { subnet: 'edge' },
      addresses: ['203.0.113.9'],
      allocation: 'automatic',
    },
  },
  publicAddresses: { '203.0.113.20': { reserved: false } },
  services: { store: { ranges: ['198.51.100.0/24'] } },
  endpoints: { shelf: { style: 'routed', service: 'store', network: 'shop' } },
  nameZones: { 'shop.example': { records: {} } },
}
const model = modelOf(ESTATE)
const { estate } = model
const subnet = (id: string) => model.subnets[model.index.subnets.get(id)!]!
const nat = model.nats[0]!
const routes = (table: string, changes: Parameters<typeof made>[1]) =>
  made(estate, changes).routeTables.get(table)!.routes

describe('routes', () => {
  const via = { gateway: 'door' }

  test('are appended to a table that has some, and to one that has none', () => {
    const more = [{ to: '10.9.0.0/16', via }]
    expect(routes('out', appendRoutes(estate, 'out', more))).toHaveLength(2)
    expect(routes('bare', appendRoutes(estate, 'bare', more))).toEqual(more)
  })

  test('of the same prefix give way to one that is added', () => {
    const lookup = { subnet: 'front', table: 'inside', entry: 0 }
    const after = routes('inside', addRoute({ estate }, lookup, '0.0.0.0/0', via))
    expect(after).toEqual([
      { to: '0.0.0.0/0', via },
      { to: '::/0', via },
    ])
  })

  test('are added in a table of its own for a subnet without one', () => {
    const changes = addRoute({ estate }, { subnet: 'back', table: null, entry: -1 }, '::/0', via)
    const changed = made(estate, changes)
    expect(changed.subnets.get('back')!.routeTable).toBe('back-table')
    expect(changed.routeTables.get('back-table')).toEqual({
      network: 'shop',
      routes: [{ to: '::/0', via }],
    })
    expect(addRoute({ estate }, null, '::/0', via)).toEqual([])
  })

  test('that won are led elsewhere; where none won one is written', () => {
    const won = { estate, lookup: { subnet: 'front', table: 'inside', entry: 1 } } as Situation
    expect(routes('inside', setRoute(won, { nat: 'tide' }))![1]!.via).toEqual({ nat: 'tide' })
    const lost = { ...won, lookup: { subnet: 'back', table: 'bare', entry: -1 }, dst: 0x0a010105 }
    expect(routes('bare', setRoute(lost as Situation, 'local'))).toEqual([
      { to: '10.1.0.0/16', via: 'local' },
    ])
  })

  test('are taken out from the last to the first, each once, with what is said of them', () => {
    const one = removeRoutes(estate, 'inside', [1])!
    expect(one.what).toBe('take the route to ::/0 out of inside')
    const both = removeRoutes(estate, 'inside', [0, 1, 0])!
    expect(both.what).toBe('take these 2 routes out of inside')
    expect(routes('inside', both.changes)).toEqual([])
    expect(removeRoutes(estate, 'inside', [])).toBeNull()
  })

  test('in a new table come with the association of its subnet', () => {
    const changed = made(estate, newTable(estate, 'fresh', 'back', [{ to: '::/0', via }]))
    expect([changed.subnets.get('back')!.routeTable, changed.routeTables.has('fresh')]).toEqual([
      'fresh',
      true,
    ])
  })
})

describe('associations', () => {
  test('lead a subnet out by a table of its network with a translator', () => {
    expect(leaveByNat(model, subnet('edge'))!.what).toContain('associate edge with inside')
    expect(leaveByNat(model, subnet('front'))).toBeNull()
    expect(leaveByNat(model, subnet('quay'))).toBeNull()
  })

  test('keep to the zone of a subnet', () => {
    expect(leaveInZone(model, subnet('edge'))!.what).toContain('south-1')
    expect(leaveInZone(model, subnet('back'))).toBeNull()
  })

  test('give a translator whose table is shared a table of its own', () => {
    const alone = leadNatOut(model, 'edge', 'door', '0.0.0.0/0')!
    expect(alone.what).toBe('lead the default route of out to door')
    const shared = modelOf(ESTATE, { subnets: { back: { routeTable: 'out' } } })
    const own = leadNatOut(shared, 'edge', 'door', '0.0.0.0/0')!
    expect(own.what).toBe('give edge a table that leads out by door')
    expect(made(shared.estate, own.changes).subnets.get('edge')!.routeTable).toBe('edge-out')
  })
})

describe('steering', () => {
  test('takes the IPv6 default out; a default-open network drops it', () => {
    expect(closeIpv6(model, subnet('front'))!.what).toBe('take the route to ::/0 out of inside')
    const open = closeIpv6(model, subnet('quay'))!
    expect(routes('quays', open.changes)).toEqual([{ to: '::/0', via: 'drop' }])
    expect(closeIpv6(model, subnet('back'))).toBeNull()
  })

  test('leads a service to the routed endpoint of its network, once', () => {
    const mend = useEndpoint(model, subnet('front'), 'store', ['shelf'])!
    const changed = made(estate, mend.changes)
    expect(changed.routeTables.get('inside')!.routes!.at(-1)).toEqual({
      to: { service: 'store' },
      via: { endpoint: 'shelf' },
    })
    const again = modelOf(ESTATE, {
      routeTables: { bare: { routes: [{ to: { service: 'store' }, via: { endpoint: 'shelf' } }] } },
    })
    const back = again.subnets[again.index.subnets.get('back')!]!
    expect(useEndpoint(again, back, 'store', ['shelf'])).toBeNull()
    expect(useEndpoint(model, subnet('front'), 'store', [])).toBeNull()
  })
})

describe('removal', () => {
  test('takes the names of an object out with it', () => {
    const changed = made(estate, remove(model, 'routeTables', 'spare')!.changes)
    expect(changed.routeTables.has('spare')).toBe(false)
    expect(changed.networks.get('shop')!.defaultRouteTable).toBeUndefined()
  })

  test('spares a network that holds objects, and what people name', () => {
    expect(remove(model, 'networks', 'shop')).toBeNull()
    expect(remove(model, 'networks', 'empty')!.changes).toHaveLength(1)
    const named = modelOf(ESTATE, { groups: { all: { section: 'networks', members: ['empty'] } } })
    expect(remove(named, 'networks', 'empty')).toBeNull()
  })
})

describe('upkeep', () => {
  test('links a zone to its first network, and to one more', () => {
    const first = linkZone(model, 'nameZones/shop.example', 'shop')!
    const once = made(estate, first.changes)
    expect(once.nameZones.get('shop.example')!.linkedTo).toEqual(['shop'])
    const linked = modelOf(ESTATE, { nameZones: { 'shop.example': { linkedTo: ['shop'] } } })
    const more = linkZone(linked, 'nameZones/shop.example', 'open')!
    expect(made(linked.estate, more.changes).nameZones.get('shop.example')!.linkedTo).toEqual([
      'shop',
      'open',
    ])
    expect(linkZone(model, 'endpoints/shelf', 'shop')).toBeNull()
  })

  test('keeps the address of a translator that takes any, or reserves it', () => {
    const kept = keepAddress(model, '203.0.113.9', ['nats/tide', 'subnets/front'])!
    expect(made(estate, kept.changes).nats.get('tide')!.allocation).toBe('manual')
    const reserved = keepAddress(model, '203.0.113.20', ['subnets/edge'])!
    expect(made(estate, reserved.changes).publicAddresses.get('203.0.113.20')!.reserved).toBe(true)
    expect(keepAddress(model, '203.0.113.99', ['subnets/edge'])).toBeNull()
  })

  test('shares the ports of a translator, but never fewer than a host needs', () => {
    expect(sharePorts(nat, 1_000, 64_512)!.changes[0]).toMatchObject({ value: 64 })
    expect(sharePorts(nat, 1_100, 64_512)).toBeNull()
  })

  test('gives tags only where all that lack are known', () => {
    const lacking = new Map([
      ['owner', 'quay'],
      ['cost', undefined],
    ])
    expect(giveTags('subnets', 'front', undefined, lacking, 'as it is')).toBeNull()
    const known = giveTags('subnets', 'front', undefined, new Map([['owner', 'quay']]), 'as it is')
    expect(made(estate, known!.changes).subnets.get('front')!.tags).toEqual({ owner: 'quay' })
  })
})
