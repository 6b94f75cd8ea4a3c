import {
  apply,
  compile,
  complete,
  isRefusal,
  isValid,
  moveIn,
  trace,
  type Estate,
  type LaneJson,
  type Move,
} from '../../src/index'
import { estateOfJson } from '../random/read'

/** The estate after a move, which has to leave it valid. */
function made(estate: Estate, move: Move): Estate {
  const outcome = moveIn(compile(estate), move, [])
  if (!outcome.ok) throw new Error(outcome.message)
  const after = apply(estate, complete(estate, outcome.change))
  if (!after.ok) throw new Error(after.failure.message)
  expect(isValid(after.estate, estate)).toBe(true)
  return after.estate
}

/** The firewalls of both directions of a packet, and how it ends. */
function passed(estate: Estate, from: string, to: string): unknown {
  const answer = trace(compile(estate), { from, to, protocol: 'tcp', port: 443 })
  if (isRefusal(answer)) return answer
  const walls = (lane: LaneJson | null): string =>
    [...new Set((lane?.stations ?? []).map(({ at }) => at))]
      .filter((at) => at.startsWith('firewalls/'))
      .join() || 'none'
  return [answer.verdict, walls(answer.forward), walls(answer.return)]
}

const hosts = {
  a1: { subnet: 'a-app', addresses: ['10.1.1.9'] },
  b1: { subnet: 'b-app', addresses: ['10.2.1.9'] },
}

/** Two networks peered with a hub in which a routed firewall stands. */
const peered = (routes = [{ to: '0.0.0.0/0', via: { address: '10.3.2.1' } }]): Estate =>
  estateOfJson({
    regions: { north: { zones: ['z1'] } },
    networks: Object.fromEntries(
      ['a', 'b', 'hub'].map((id, at) => [
        id,
        { ranges: [`10.${at + 1}.0.0/16`], behaviour: 'default-open', region: 'north' },
      ]),
    ),
    subnets: {
      'a-app': { network: 'a', ranges: ['10.1.1.0/24'], zone: 'z1' },
      'b-app': { network: 'b', ranges: ['10.2.1.0/24'], zone: 'z1' },
      inner: { network: 'hub', ranges: ['10.3.1.0/24'], zone: 'z1' },
      outer: { network: 'hub', ranges: ['10.3.2.0/24'], zone: 'z1' },
      desk: { network: 'hub', ranges: ['10.3.3.0/24'], zone: 'z1' },
    },
    interfaces: {
      ...hosts,
      d1: { subnet: 'desk', addresses: ['10.3.3.9'] },
      'wall-in': { subnet: 'inner', addresses: ['10.3.1.4'], forwards: true },
      'wall-out': {
        subnet: 'outer',
        addresses: ['10.3.2.4'],
        forwards: true,
        publicAddress: '203.0.113.4',
      },
    },
    firewalls: {
      wall: {
        style: 'routed',
        interfaces: { outside: 'wall-out', inside: 'wall-in' },
        routes,
        policy: [],
        otherwise: 'allow',
        sourceTranslation: [{ fromSide: 'inside', toSide: 'outside', use: 'interface' }],
      },
    },
    peerings: {
      'a-hub': { a: { network: 'a' }, b: { network: 'hub' } },
      'b-hub': { a: { network: 'b' }, b: { network: 'hub' } },
    },
    gateways: { door: { kind: 'internet', network: 'hub' } },
  })

describe('a firewall in another network, over peerings', () => {
  const after = made(peered(), {
    move: 'wall',
    subnets: ['a-app'],
    firewall: 'wall',
    traffic: 'both',
  })

  test('is passed both ways by traffic between the networks', () => {
    expect(passed(after, 'interface:a1', 'interface:b1')).toEqual([
      'works',
      'firewalls/wall',
      'firewalls/wall',
    ])
    expect(passed(after, 'interface:b1', 'interface:a1')).toEqual([
      'works',
      'firewalls/wall',
      'firewalls/wall',
    ])
  })

  test('is passed both ways by traffic with other subnets of its own network', () => {
    expect(passed(after, 'interface:a1', 'interface:d1')).toEqual([
      'works',
      'firewalls/wall',
      'firewalls/wall',
    ])
  })

  test('is passed both ways by traffic to the internet', () => {
    expect(passed(after, 'interface:a1', 'internet')).toEqual([
      'works',
      'firewalls/wall',
      'firewalls/wall',
    ])
  })
})

test('for the internet alone, traffic between networks goes as it did', () => {
  const after = made(peered(), {
    move: 'wall',
    subnets: ['a-app'],
    firewall: 'wall',
    traffic: 'internet',
  })
  expect(passed(after, 'interface:a1', 'interface:d1')).toEqual(['works', 'none', 'none'])
  expect(passed(after, 'interface:a1', 'internet')).toEqual([
    'works',
    'firewalls/wall',
    'firewalls/wall',
  ])
})

test('a firewall that lacks a route to a network is given one', () => {
  const after = made(peered([{ to: '192.0.2.0/24', via: { address: '10.3.2.1' } }]), {
    move: 'wall',
    subnets: ['a-app'],
    firewall: 'wall',
    traffic: 'networks',
  })
  for (const to of ['interface:b1', 'interface:d1'])
    expect(passed(after, 'interface:a1', to)).toEqual(['works', 'firewalls/wall', 'firewalls/wall'])
})

test('a subnet without a table keeps what it learned', () => {
  const after = made(peered(), {
    move: 'wall',
    subnets: ['a-app'],
    firewall: 'wall',
    traffic: 'internet',
  })
  const table = after.subnets.get('a-app')!.routeTable!
  expect(after.routeTables.get(table)).toMatchObject({ network: 'a', learn: 'all' })
})

/** Two networks and one with an inline firewall, all attached to a transit. */
const joined = (): Estate =>
  estateOfJson({
    regions: { north: { zones: ['z1'] } },
    networks: Object.fromEntries(
      ['a', 'b', 'hub'].map((id, at) => [
        id,
        { ranges: [`10.${at + 1}.0.0/16`], region: 'north', defaultRouteTable: `${id}-table` },
      ]),
    ),
    routeTables: {
      'a-table': { network: 'a', routes: [{ to: '10.0.0.0/8', via: { transit: 'ring' } }] },
      'b-table': { network: 'b', routes: [{ to: '10.0.0.0/8', via: { transit: 'ring' } }] },
      'hub-table': { network: 'hub', routes: [{ to: '10.0.0.0/8', via: { transit: 'ring' } }] },
      'hub-out': {
        network: 'hub',
        routes: [
          { to: '10.0.0.0/8', via: { transit: 'ring' } },
          { to: '0.0.0.0/0', via: { gateway: 'door' } },
        ],
      },
      'hub-nat': { network: 'hub', routes: [{ to: '0.0.0.0/0', via: { nat: 'nat' } }] },
    },
    subnets: {
      'a-app': { network: 'a', ranges: ['10.1.1.0/24'], zone: 'z1' },
      'b-app': { network: 'b', ranges: ['10.2.1.0/24'], zone: 'z1' },
      landing: { network: 'hub', ranges: ['10.3.1.0/24'], zone: 'z1' },
      gate: { network: 'hub', ranges: ['10.3.2.0/24'], zone: 'z1', routeTable: 'hub-nat' },
      edge: { network: 'hub', ranges: ['10.3.3.0/24'], zone: 'z1', routeTable: 'hub-out' },
    },
    interfaces: hosts,
    firewalls: {
      wall: {
        style: 'inline',
        network: 'hub',
        endpoints: { one: { subnet: 'gate' } },
        policy: [],
        otherwise: 'allow',
      },
    },
    gateways: { door: { kind: 'internet', network: 'hub' } },
    nats: {
      nat: {
        network: 'hub',
        kind: 'public',
        placement: { subnet: 'edge' },
        addresses: ['203.0.113.9'],
      },
    },
    publicAddresses: { '203.0.113.9': { reserved: true, region: 'north' } },
    transits: {
      ring: {
        attachments: {
          a: { network: 'a', subnets: ['a-app'], table: 'members' },
          b: { network: 'b', subnets: ['b-app'], table: 'members' },
          hub: { network: 'hub', subnets: ['landing'], table: 'core' },
        },
        tables: { members: { learn: 'all' }, core: { learn: 'all' } },
      },
    },
  })

describe('a firewall in another network, over a transit', () => {
  const before = joined()
  const after = made(before, {
    move: 'wall',
    subnets: ['a-app', 'b-app'],
    firewall: 'wall',
    traffic: 'both',
  })
  const both = ['works', 'firewalls/wall', 'firewalls/wall']

  test('is passed both ways by traffic between the networks', () => {
    expect(passed(before, 'interface:a1', 'interface:b1')).toEqual(['works', 'none', 'none'])
    expect(passed(after, 'interface:a1', 'interface:b1')).toEqual(both)
    expect(passed(after, 'interface:b1', 'interface:a1')).toEqual(both)
  })

  test('is passed both ways by traffic to the internet', () => {
    expect(passed(after, 'interface:a1', 'internet')).toEqual(both)
  })
})

/** Two regions, each a hub with a firewall and a spoke that is steered through it. */
const twoRegions = (): Estate => {
  const region = (at: number): Record<string, Record<string, unknown>> => {
    const [hub, spoke] = [`hub-${at}`, `spoke-${at}`]
    const host = `10.${at}2.1.4`
    return {
      networks: {
        [hub]: { ranges: [`10.${at}2.0.0/16`], behaviour: 'default-open' },
        [spoke]: { ranges: [`10.${at}1.0.0/16`], behaviour: 'default-open' },
      },
      subnets: {
        [`inner-${at}`]: { network: hub, ranges: [`10.${at}2.1.0/24`] },
        [`app-${at}`]: { network: spoke, ranges: [`10.${at}1.1.0/24`], routeTable: `to-${at}` },
      },
      routeTables: {
        [`to-${at}`]: { network: spoke, routes: [{ to: '10.0.0.0/8', via: { address: host } }] },
      },
      interfaces: {
        [`wall-in-${at}`]: { subnet: `inner-${at}`, addresses: [host], forwards: true },
        [`app-host-${at}`]: { subnet: `app-${at}`, addresses: [`10.${at}1.1.9`] },
      },
      firewalls: {
        [`wall-${at}`]: {
          style: 'routed',
          interfaces: { inside: `wall-in-${at}` },
          policy: [],
          otherwise: 'allow',
        },
      },
      peerings: {
        [`spoke-hub-${at}`]: {
          a: { network: spoke, acceptsForwarded: true },
          b: { network: hub },
        },
      },
    }
  }
  const [north, south] = [region(1), region(2)]
  return estateOfJson(
    Object.fromEntries(
      Object.keys(north).map((section) => [section, { ...north[section], ...south[section] }]),
    ),
  )
}

test('firewalls of two regions are told each other’s ranges, and pass traffic both ways', () => {
  const before = twoRegions()
  const after = made(before, {
    move: 'join',
    hub: null,
    members: ['hub-1', 'hub-2'],
    tellWalls: true,
  })
  const walls = 'firewalls/wall-1,firewalls/wall-2'
  expect(passed(before, 'interface:app-host-1', 'interface:app-host-2')).not.toContain('works')
  expect(passed(after, 'interface:app-host-1', 'interface:app-host-2')).toEqual([
    'works',
    walls,
    'firewalls/wall-2,firewalls/wall-1',
  ])
})

test('segments stay apart, and the estate expects so', () => {
  const estate = estateOfJson({
    networks: Object.fromEntries(
      ['live-1', 'live-2', 'trial-1'].map((id, at) => [
        id,
        { ranges: [`10.${at}.0.0/16`], tags: { stage: id.split('-')[0] } },
      ]),
    ),
  })
  const after = made(estate, {
    move: 'join',
    hub: null,
    members: ['live-1', 'live-2', 'trial-1'],
    apart: 'stage',
  })
  expect([...after.peerings.keys()]).toEqual(['live-1-live-2'])
  expect(Object.fromEntries(after.expectations)).toEqual({
    'live-apart': {
      from: ['networks/live-1', 'networks/live-2'],
      to: ['networks/trial-1'],
      must: 'never-reach',
    },
    'trial-apart': {
      from: ['networks/trial-1'],
      to: ['networks/live-1', 'networks/live-2'],
      must: 'never-reach',
    },
  })
})

describe('segments', () => {
  const networks = (count: number): Estate =>
    estateOfJson({
      networks: Object.fromEntries(
        Array.from({ length: count }, (_, at) => [
          `n${at}`,
          { ranges: [`10.${at}.0.0/16`], tags: { stage: `stage ${at} / a=b` } },
        ]),
      ),
    })
  const join = (count: number): Move => ({
    move: 'join',
    hub: 'n0',
    members: Array.from({ length: count - 1 }, (_, at) => `n${at + 1}`),
    apart: 'stage',
  })

  test('are named by what of a tag can stand in an id, and expected once', () => {
    const after = made(networks(3), join(3))
    expect([...after.expectations.keys()]).toEqual(['stage-1-a-b-apart', 'stage-2-a-b-apart'])
    const again = moveIn(compile(after), join(3), [])
    expect(again).toMatchObject({ ok: false, message: 'all of them are joined already' })
  })

  test('of too many values are refused', () => {
    const refused = moveIn(compile(networks(60)), join(60), [])
    expect(refused).toMatchObject({ ok: false })
    expect(refused.ok ? '' : refused.message).toContain('59 values')
  })

  test('that no two members share leave nothing to join in a mesh', () => {
    const refused = moveIn(compile(networks(3)), { ...join(3), hub: null } as Move, [])
    expect(refused.ok ? '' : refused.message).toContain('the same value of "stage"')
  })
})

test('a firewall in front of more subnets than routes can be written for is refused', () => {
  const more = [
    ['a', 1],
    ['b', 2],
  ].flatMap(([network, at]) =>
    Array.from({ length: 80 }, (_, one) => ({
      op: 'add' as const,
      path: `/subnets/${network}-${one}`,
      value: { network, ranges: [`10.${at}.${100 + one}.0/24`], zone: 'z1' },
    })),
  )
  const all = apply(peered(), more)
  if (!all.ok) throw new Error(all.failure.message)
  const subnets = [...all.estate.subnets.keys()].filter((id) => id.startsWith('a-'))
  const move: Move = { move: 'wall', subnets, firewall: 'wall', traffic: 'networks' }
  const refused = moveIn(compile(all.estate), move, [])
  expect(refused.ok ? '' : refused.message).toContain('5000 at most')
})
