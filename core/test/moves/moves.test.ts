import {
  apply,
  compile,
  complete,
  findAll,
  isValid,
  moveIn,
  trace,
  waysOut,
  type Estate,
  type Finding,
  type Move,
  type Moved,
} from '../../src/index'
import { estateOfJson } from '../random/read'

const shop = (more: object = {}): Estate =>
  estateOfJson({
    regions: { north: { zones: ['z1', 'z2'] } },
    networks: {
      shop: { ranges: ['10.1.0.0/16'], region: 'north', defaultRouteTable: 'plain' },
      bank: { ranges: ['10.2.0.0/16'], region: 'north', tags: { kind: 'money' } },
      mill: { ranges: ['10.3.0.0/16'], region: 'north', tags: { kind: 'money' } },
      twin: { ranges: ['10.1.0.0/20'], region: 'north' },
    },
    routeTables: {
      plain: { network: 'shop', routes: [] },
      out: { network: 'shop', routes: [{ to: '0.0.0.0/0', via: { gateway: 'door' } }] },
      vault: { network: 'bank', routes: [] },
    },
    gateways: { door: { kind: 'internet', network: 'shop' } },
    publicAddresses: {
      '203.0.113.10': { reserved: true, region: 'north' },
      '203.0.113.11': { reserved: true, region: 'north' },
    },
    subnets: {
      edge: { network: 'shop', ranges: ['10.1.0.0/24'], zone: 'z1', routeTable: 'out' },
      till: { network: 'shop', ranges: ['10.1.1.0/24'], zone: 'z1' },
      desk: { network: 'shop', ranges: ['10.1.2.0/24'], zone: 'z2' },
      other: { network: 'shop', ranges: ['10.1.3.0/24'], zone: 'z2' },
      safe: { network: 'bank', ranges: ['10.2.1.0/24'], zone: 'z1', routeTable: 'vault' },
    },
    interfaces: {
      t1: { subnet: 'till', addresses: ['10.1.1.9'] },
      d1: { subnet: 'desk', addresses: ['10.1.2.9'] },
      o1: { subnet: 'other', addresses: ['10.1.3.9'] },
    },
    services: { store: { ranges: ['198.51.100.0/28'] } },
    parties: { broker: { ranges: ['198.51.100.80/32'], allowlist: ['203.0.113.9/32'] } },
    prices: { natHour: 0.05, publicAddressHour: 0.005 },
    ...more,
  })

function made(
  estate: Estate,
  move: Move,
  findings: readonly Finding[] = [],
): Estate & { m: Moved } {
  const outcome = moveIn(compile(estate), move, findings)
  if (!outcome.ok) throw new Error(outcome.message)
  const after = apply(estate, complete(estate, outcome.change))
  if (!after.ok) throw new Error(after.failure.message)
  expect(isValid(after.estate, estate)).toBe(true)
  return { ...after.estate, m: outcome }
}
const refused = (estate: Estate, move: Move): string => {
  const outcome = moveIn(compile(estate), move, [])
  return outcome.ok ? 'it was made' : outcome.message
}
const verdict = (estate: Estate, from: string): string => {
  const answer = trace(compile(estate), { from: `interface:${from}`, to: 'internet', port: 443 })
  return 'verdict' in answer ? answer.verdict : answer.code
}

describe('a way out', () => {
  test('by one NAT leads the chosen subnets out and leaves the others alone', () => {
    const after = made(shop(), { move: 'way-out', subnets: ['till', 'desk'], by: 'one' })
    expect(after.nats.size).toBe(1)
    expect([...after.nats.values()][0]).toMatchObject({
      placement: { subnet: 'edge' },
      addresses: ['203.0.113.10'],
    })
    expect(['t1', 'd1', 'o1'].map((one) => verdict(after, one))).toEqual([
      'works',
      'works',
      'blackholed',
    ])
  })

  test('side by side with what each costs and what the loss of a zone takes down', () => {
    const ways = waysOut(compile(shop()), { subnets: ['till', 'desk'] })
    expect(ways.map(({ by, nats, perHour }) => [by, nats, perHour])).toEqual([
      ['one', 1, 0.055],
      ['zone', 2, 0.11],
      ['subnet', 2, 0.11],
    ])
    expect(ways[0]!.onLoss).toEqual([{ zone: 'z1', subnets: ['desk'] }])
  })

  test('takes addresses of the reserve, or those that are named, and invents none', () => {
    const three: Move = { move: 'way-out', subnets: ['till', 'desk', 'other'], by: 'subnet' }
    expect(refused(shop(), three)).toContain('name those that you will reserve')
    const after = made(shop(), { ...three, addresses: ['203.0.113.12'] })
    expect(after.publicAddresses.get('203.0.113.12')).toEqual({ reserved: true, region: 'north' })
    expect(after.nats.size).toBe(3)
    expect(refused(shop(), { ...three, addresses: ['nowhere'] })).toContain('no IPv4 address')
  })

  test('says what is missing', () => {
    expect(refused(shop(), { move: 'way-out', subnets: ['safe'], by: 'one' })).toContain(
      'bank has no subnet whose default leads to an internet gateway',
    )
    expect(refused(shop(), { move: 'way-out', subnets: ['gone'], by: 'one' })).toContain(
      'there is no subnet gone',
    )
  })
})

test('services are reached by endpoints of the network', () => {
  const after = made(shop(), { move: 'endpoints', subnets: ['till'], services: ['store'] })
  const table = after.subnets.get('till')!.routeTable!
  expect(after.routeTables.get(table)!.routes).toEqual([
    { to: { service: 'store' }, via: { endpoint: 'shop-store' } },
  ])
  expect(after.subnets.get('desk')!.routeTable).toBeUndefined()
})

describe('networks are joined', () => {
  test('as hub and spokes, with routes of both directions', () => {
    const after = made(shop(), { move: 'join', hub: 'shop', members: ['bank'] })
    expect(after.peerings.get('shop-bank')).toMatchObject({ b: { network: 'bank' } })
    const via = { peering: 'shop-bank' }
    expect(after.routeTables.get('plain')!.routes).toContainEqual({ to: '10.2.0.0/16', via })
    expect(after.routeTables.get('vault')!.routes).toContainEqual({ to: '10.1.0.0/16', via })
  })

  test('as a mesh of those that fit a condition; what overlaps is named', () => {
    const after = made(shop(), { move: 'join', hub: null, members: [], where: 'tag:kind=money' })
    expect([...after.peerings.keys()]).toEqual(['bank-mill'])
    const mesh = made(shop(), {
      move: 'join',
      hub: null,
      members: ['shop', 'twin', 'bank'],
    })
    expect(mesh.m.notes).toEqual(['shop and twin have ranges in common and cannot be joined'])
    expect(refused(shop(), { move: 'join', hub: 'shop', members: [] })).toContain('two at least')
    const many = Object.fromEntries(
      Array.from({ length: 50 }, (_, at) => [`m${at}`, { ranges: [`10.${100 + at}.0.0/16`] }]),
    )
    const mesh50: Move = { move: 'join', hub: null, members: [], where: 'm*' }
    expect(
      refused(
        shop({ networks: many, subnets: {}, interfaces: {}, gateways: {}, routeTables: {} }),
        mesh50,
      ),
    ).toContain('one move joins 1000 at most')
  })
})

test('many subnets are associated in one act, with a table that is made', () => {
  const after = made(shop(), {
    move: 'associate',
    subnets: ['till', 'desk'],
    table: 'new',
    copyOf: 'out',
  })
  expect(after.routeTables.get('new')!.routes).toHaveLength(1)
  expect(after.subnets.get('desk')!.routeTable).toBe('new')
  expect(refused(shop(), { move: 'associate', subnets: ['till', 'safe'], table: 'out' })).toContain(
    'a table belongs to one network',
  )
})

describe('a range is carved', () => {
  const move = { move: 'carve', network: 'shop', length: 24 } as const

  test('by zone and role, and names what does not fit', () => {
    const estate = shop({ plannedRanges: { kept: { ranges: ['10.1.16.0/24'] } } })
    const after = made(estate, {
      ...move,
      range: '10.1.16.0/20',
      roles: ['private'],
      zones: ['z1', 'z2'],
    })
    expect(after.subnets.get('shop-private-z1')!.ranges).toEqual(['10.1.17.0/24'])
    expect(after.subnets.get('shop-private-z2')).toMatchObject({ zone: 'z2', role: 'private' })
    const twice = made(estate, {
      ...move,
      range: '10.1.16.0/20',
      roles: ['private', 'private'],
      zones: [],
    })
    expect(['shop-private', 'shop-private-2'].every((id) => twice.subnets.has(id))).toBe(true)
    expect(
      refused(estate, { ...move, range: '10.1.0.0/20', roles: ['private'], zones: [] }),
    ).toContain('collide with nothing')
    expect(refused(estate, { ...move, range: 'x', roles: ['private'], zones: [] })).toContain(
      'no prefix',
    )
  })
})

describe('the address that a partner sees', () => {
  const estate = shop({
    nats: {
      tide: { network: 'shop', placement: { subnet: 'edge' }, addresses: ['203.0.113.10'] },
    },
  })
  const move = { move: 'fixed-source', nat: 'tide' } as const

  test('is fixed by a rule, and its allowlist is told', () => {
    const after = made(estate, { ...move, act: 'fix', party: 'broker' })
    expect(after.nats.get('tide')!.rules).toEqual([
      { order: 10, to: ['198.51.100.80/32'], use: ['203.0.113.11'] },
    ])
    expect(after.m.notes).toEqual(['broker does not have 203.0.113.11 on its list yet'])
  })

  test('is drained, and swapped for one of the reserve', () => {
    const drained = made(estate, { ...move, act: 'drain', address: '203.0.113.10' })
    expect(drained.nats.get('tide')!.draining).toEqual(['203.0.113.10'])
    const swapped = made(estate, { ...move, act: 'swap', address: '203.0.113.10' })
    expect(swapped.nats.get('tide')).toMatchObject({
      addresses: ['203.0.113.10', '203.0.113.11'],
      draining: ['203.0.113.10'],
    })
    expect(refused(estate, { ...move, act: 'drain', address: '203.0.113.99' })).toContain(
      'does not have',
    )
  })
})

test('a firewall is put in front, in both directions', () => {
  const estate = shop({
    firewalls: {
      gate: { style: 'inline', network: 'shop', endpoints: { one: { subnet: 'edge' } } },
    },
  })
  const after = made(estate, {
    move: 'wall',
    subnets: ['till'],
    firewall: 'gate',
    traffic: 'internet',
  })
  const table = after.subnets.get('till')!.routeTable!
  const via = { inspect: 'gate/one' }
  expect(after.routeTables.get(table)!.routes).toEqual([{ to: '0.0.0.0/0', via }])
  const inwards = after.gateways.get('door')!.routeTable!
  expect(after.routeTables.get(inwards)!.routes).toEqual([{ to: '10.1.1.0/24', via }])
  expect(
    refused(estate, { move: 'wall', subnets: ['safe'], firewall: 'gate', traffic: 'both' }),
  ).toContain('join the networks first')
})

test('what is idle is taken out in an order that leaves nothing dangling', () => {
  const estate = shop({
    ruleSets: {
      unused: { rules: [{ direction: 'in', peers: [{ ruleSet: 'also-unused' }] }] },
      'also-unused': { rules: [] },
    },
  })
  const { findings } = findAll(compile(estate))!
  const after = made(estate, { move: 'clean-up' }, findings)
  // What only the idle one referred to is idle from then on, and not before.
  expect([...after.ruleSets.keys()]).toEqual(['also-unused'])
  expect(after.m.what).toContain('take out what is idle')
  expect(moveIn(compile(estate), { move: 'clean-up' }, []).ok).toBe(false)
})

test('cleaning up ends when it is told to, and counts what is left', () => {
  const idle = { a: { rules: [] }, b: { rules: [] } }
  const estate = shop({ ruleSets: idle })
  const { findings } = findAll(compile(estate))!
  let asked = 0
  const outcome = moveIn(compile(estate), { move: 'clean-up' }, findings, () => ++asked > 1)
  expect(outcome).toMatchObject({
    ok: true,
    notes: [expect.stringMatching(/^\d+ more are idle: take this move again$/)],
  })
})

test('what fails is named, and what stays up', () => {
  const outcome = moveIn(compile(shop()), { move: 'fail', failing: ['zone:z1'] }, [])
  expect(outcome).toMatchObject({ ok: true, what: 'zone z1 fails' })
  expect(refused(shop(), { move: 'fail', failing: ['zone:nowhere'] })).toContain('nowhere')
})
