import { random } from './random'
import {
  NETWORKS,
  randomEstateRules,
  randomFirewalls,
  randomRuleSets,
  randomTransits,
  type Given,
  type Host,
  type Json,
} from './sections'

const ZONES = { north: ['n1', 'n2'], south: ['s1'] } as const

export interface RandomEstate {
  readonly estate: Json
  readonly ends: readonly string[]
}

/**
 * Random estates that contain every construct of the format, tangled on purpose: few addresses,
 * many routes to the same places, objects that are down, deleted or elsewhere. Every one is valid.
 */
export function randomEstate(seed: number): RandomEstate {
  const r = random(seed)
  // Every second estate is calmer: fewer things are down or shut and more routes lead somewhere, so
  // that packets get further.
  const calm = seed % 2 === 0
  const often = (tangled: number, quiet: number): boolean => r.chance(calm ? quiet : tangled)
  const wallAt = r.pick(NETWORKS)
  const state = (): Json => (often(6, 1) ? { state: r.pick(['down', 'pending', 'deleted']) } : {})
  const some = <T>(from: readonly T[], percent: number): T[] => from.filter(() => r.chance(percent))

  const subnetsOf: Record<string, string[]> = {}
  const hosts: Host[] = []
  const given: Given = { r, calm, wallAt, state, some, subnetsOf, hosts }
  const networks: Record<string, Json> = {}
  const subnets: Record<string, Json> = {}
  const interfaces: Record<string, Json> = {}
  const tables: Record<string, Json> = {}

  NETWORKS.forEach((id, n) => {
    const region = r.chance(60) ? r.pick(['north', 'south'] as const) : undefined
    networks[id] = {
      ranges: [
        `10.${n + 1}.0.0/16`,
        ...(id === 'd' && r.chance(20) ? ['192.0.2.0/25'] : []),
        ...(r.chance(50) ? [`2001:db8:${n + 1}::/56`] : []),
      ],
      behaviour: r.pick(['table-routed', 'table-routed', 'default-open', 'priority-routed']),
      levels: r.pick(['every', 'any']),
      ...(region ? { region } : {}),
      ...(often(80, 100) ? { defaultRouteTable: `${id}-t0` } : {}),
      ...(r.chance(30) ? { implicitEgress: true } : {}),
      ...(r.chance(10) ? { tags: { scope: 'cards' } } : {}),
      ...(often(3, 0) ? { state: r.pick(['down', 'deleted']) } : {}),
    }
    subnetsOf[id] = []
    for (let s = 0; s < 3; s++) {
      const sid = `${id}-s${s}`
      subnetsOf[id].push(sid)
      const open =
        id === 'd' && s === 2 && (networks[id].ranges as string[]).includes('192.0.2.0/25')
          ? ['192.0.2.0/26']
          : []
      const where = region ?? r.pick(['north', 'south'] as const)
      subnets[sid] = {
        network: id,
        ranges: [
          `10.${n + 1}.${s + 1}.0/24`,
          ...open,
          ...((networks[id].ranges as string[]).some((range) => range.includes(':')) && r.chance(60)
            ? [`2001:db8:${n + 1}:${s + 1}::/64`]
            : []),
        ],
        ...(r.chance(70) ? { zone: r.pick(ZONES[where]) } : { region: where }),
        ...(r.chance(40) ? { routeTable: `${id}-t${r.number(2)}` } : {}),
        ...(often(15, 5) ? { boundary: r.pick(['open', 'list', 'shut']) } : {}),
        ...(often(15, 4) ? { ruleSets: [r.pick(['open', 'web', 'list'])] } : {}),
        ...(r.chance(20) ? { privateServices: r.pick(['all', ['store']]) } : {}),
        ...(r.chance(20) ? { givesPublicAddresses: true } : {}),
        ...(r.chance(10) ? { namedRanges: { pods: `10.${n + 1}.${s + 101}.0/24` } } : {}),
        ...(r.chance(10) ? { tags: { tier: 'x' } } : {}),
        ...state(),
      }
      for (let h = 0; h < 2; h++) {
        const hid = `${sid}-h${h}`
        const address = `10.${n + 1}.${s + 1}.${10 + h}`
        hosts.push({ id: hid, network: id, subnet: sid, address })
        interfaces[hid] = {
          subnet: sid,
          addresses: [
            address,
            ...(open.length > 0 && h === 0 ? ['192.0.2.10'] : []),
            ...(subnets[sid].namedRanges && h === 0 ? [`10.${n + 1}.${s + 101}.20`] : []),
            ...((subnets[sid].ranges as string[]).some((range) => range.includes(':'))
              ? [`2001:db8:${n + 1}:${s + 1}::1${h}`]
              : []),
          ],
          ...(often(25, 60) ? { publicAddress: `203.0.113.${n * 20 + s * 5 + h + 1}` } : {}),
          ...(often(40, 12) ? { ruleSets: some(['open', 'web', 'list', 'members'], 50) } : {}),
          ...(often(8, 2) ? { localRules: r.pick(['open', 'web', 'list']) } : {}),
          ...(often(40, 80) ? { forwards: true } : {}),
          ...(r.chance(20) ? { tags: { [r.pick(['clears', 'tier'])]: 'x' } } : {}),
          ...state(),
        }
      }
    }
  })

  const prefixes = [
    '0.0.0.0/0',
    '10.0.0.0/8',
    '10.1.0.0/16',
    '10.2.0.0/16',
    '10.2.0.0/15',
    '10.1.1.0/24',
    '10.2.2.0/24',
    '10.3.1.0/24',
    '198.51.100.0/24',
    '198.51.100.80/32',
    '172.20.0.0/16',
    '203.0.113.0/25',
  ]
  const prefixes6 = ['::/0', '2001:db8:1::/56', '2001:db8:2:1::/64', '2001:db8::/32']
  const via = (network: string, six: boolean): unknown => {
    const host = r.pick(hosts.filter((h) => h.network === network || r.chance(20)))
    if (calm && r.chance(75)) {
      const near = [
        { gateway: `${network}-door` },
        { nat: `${network}-nat` },
        { interface: host.id },
        { transit: 'r' },
        { peering: r.pick(['ab', 'bc', 'cd']) },
      ]
      const wall =
        network === wallAt
          ? [
              { interface: `${network}-s0-h0` },
              { interface: `${network}-s1-h0` },
              { inspect: 'gate/one' },
              { inspect: 'gate/one' },
            ]
          : []
      return r.pick<unknown>([...near, ...wall, ...wall])
    }
    return r.pick<unknown>([
      'drop',
      'local',
      'internet',
      { gateway: r.pick([`${network}-door`, `${network}-circuit`, `${network}-six`, 'nowhere']) },
      { gateway: `${network}-door` },
      { nat: r.pick([`${network}-nat`, `${network}-pnat`, `${network}-rnat`, 'nowhere']) },
      { nat: `${network}-nat` },
      six ? { interface: host.id } : { address: r.pick([host.address, '10.1.9.9']) },
      { interface: r.pick([host.id, 'nowhere']) },
      { peering: r.pick(['ab', 'bc', 'cd', 'nowhere']) },
      { transit: r.pick(['r', 'q']) },
      { transit: 'r' },
      { inspect: r.pick(['gate/one', 'gate/two', 'gate/none']) },
      { endpoint: r.pick(['routed', 'queue-ep']) },
    ])
  }
  const routes = (network: string, many: boolean): unknown[] => {
    const to = [
      ...new Set([
        ...Array.from({ length: 4 }, () => r.pick(prefixes)),
        ...some(prefixes6, 25),
        ...(r.chance(80) ? ['0.0.0.0/0'] : []),
      ]),
    ]
    const written = to.map((prefix) => ({
      to: prefix,
      via: via(network, prefix.includes(':')),
      ...(many
        ? { priority: r.pick([100, 200, 1000]), ...(r.chance(20) ? { onlyTags: ['clears'] } : {}) }
        : {}),
      ...(r.chance(5) ? { state: r.pick(['down', 'deleted']) } : {}),
    }))
    const lists = [
      r.chance(15) && { to: { prefixList: 'list' }, via: via(network, false) },
      r.chance(25) && { to: { service: 'store' }, via: { endpoint: 'routed' } },
    ].filter((x) => x !== false)
    const twice =
      many && r.chance(40)
        ? [
            {
              ...written[0],
              via: via(network, to[0]!.includes(':')),
              priority: r.pick([100, 200, 1000]),
            },
          ]
        : []
    return [...written, ...twice, ...lists]
  }
  for (const id of NETWORKS) {
    for (const t of [0, 1]) {
      tables[`${id}-t${t}`] = {
        network: id,
        learn: r.pick<unknown>(['none', 'all', [`${id}-circuit`, 'r'], ['a-circuit']]),
        routes: routes(id, networks[id]!.behaviour === 'priority-routed'),
        ...state(),
      }
    }
  }

  const gateways: Record<string, Json> = {}
  const nats: Record<string, Json> = {}
  NETWORKS.forEach((id, n) => {
    const own = (percent: number): Json => (r.chance(percent) ? { network: id } : {})
    gateways[`${id}-door`] = {
      kind: 'internet',
      ...own(90),
      ...(r.chance(20) ? { routeTable: `${id}-t1` } : {}),
      ...state(),
    }
    gateways[`${id}-six`] = { kind: 'outbound-v6', ...own(60), ...state() }
    gateways[`${id}-circuit`] = {
      kind: 'private',
      ...own(80),
      site: r.pick(['harbour', 'yard']),
      ...(r.chance(30)
        ? {
            learned: [
              '172.20.0.0/16',
              '10.50.0.0/16',
              r.pick(['10.1.1.0/24', '10.3.0.0/17', '10.60.0.0/16']),
            ],
          }
        : {}),
      ...(r.chance(30)
        ? { announces: [r.pick(['10.0.0.0/8', '10.1.0.0/16', '10.9.0.0/16'])] }
        : {}),
      ...state(),
    }
    const pool = [`203.0.113.${100 + n * 4}`, `203.0.113.${101 + n * 4}`]
    nats[`${id}-nat`] = {
      ...own(95),
      placement: { subnet: r.pick(subnetsOf[id]!) },
      addresses: pool,
      ...(r.chance(40)
        ? { rules: [{ order: 10, to: ['198.51.100.80/32'], use: [`203.0.113.${102 + n * 4}`] }] }
        : {}),
      ...(r.chance(20) ? { draining: some(pool, 60) } : {}),
      ...state(),
    }
    nats[`${id}-rnat`] = {
      ...own(60),
      placement: { region: r.pick(['north', 'south']) },
      addresses: [`203.0.113.${103 + n * 4}`],
      ...(r.chance(30)
        ? {
            serves: r.pick<Json>([
              { subnets: [subnetsOf[id]![0]] },
              { ranges: 'primary' },
              { ranges: ['pods'] },
            ]),
          }
        : {}),
      ...state(),
    }
    nats[`${id}-pnat`] = {
      ...own(90),
      kind: 'private',
      placement: { subnet: subnetsOf[id]![1] },
      addresses: [`10.${n + 1}.2.99`],
      ...state(),
    }
  })

  const side = (network: string): Json => ({
    network,
    acceptsForwarded: r.chance(50),
    usesPeerGateway: r.chance(40),
    lendsGateway: r.chance(40),
  })
  const peerings = Object.fromEntries(
    [
      ['ab', 'a', 'b'],
      ...(r.chance(15) ? [['aab', 'b', 'a']] : []),
      ['bc', 'b', 'c'],
      ['cd', 'c', 'd'],
    ].map(([id, x, y]) => [id, { a: side(x!), b: side(y!), ...state() }]),
  )
  const transits = randomTransits(given)
  const firewalls = randomFirewalls(given)
  const estate: Json = {
    regions: { north: { zones: ZONES.north }, south: { zones: ZONES.south } },
    networks,
    subnets,
    interfaces,
    routeTables: tables,
    gateways,
    nats,
    publicAddresses: { '203.0.113.77': { reserved: true, ...state() } },
    peerings,
    transits,
    firewalls,
    services: {
      store: {
        ...(r.chance(50) ? { region: r.pick(['north', 'south']) } : {}),
        ranges: ['198.51.100.0/26'],
        names: ['*.objects.example'],
      },
      queue: { ...state(), ranges: ['198.51.100.64/28'], names: ['queue.example'] },
    },
    endpoints: {
      routed: {
        style: 'routed',
        service: r.pick(['store', 'queue']),
        network: r.pick(NETWORKS),
        ...state(),
      },
      'queue-ep': {
        style: 'addressed',
        service: 'queue',
        network: 'a',
        interfaces: ['a-s2-h1'],
        privateNames: r.chance(50),
        ...state(),
      },
    },
    prefixLists: { list: { ...state(), ranges: ['10.4.0.0/16', '192.0.2.0/24'] } },
    sites: {
      harbour: { ranges: ['172.20.0.0/16'], internet: r.chance(30), ...state() },
      yard: {
        ranges: ['172.21.0.0/16', '10.50.0.0/16', ...(r.chance(20) ? ['198.51.100.128/27'] : [])],
        ...state(),
      },
    },
    groups: {
      some: {
        section: 'subnets',
        members: ['a-s0', 'b-s1'],
        where: { name: 'c-*' },
        except: ['c-s0'],
      },
    },
    parties: { broker: { ranges: ['198.51.100.80/32'], names: ['api.broker.example'] } },
    ruleSets: randomRuleSets(given),
    estateRules: randomEstateRules(given),
    frontends: {
      front: {
        network: 'b',
        subnets: ['b-s0'],
        ...(r.chance(70) ? { publicAddresses: ['203.0.113.95'] } : {}),
        privateAddresses: ['10.2.1.200'],
        listeners: [
          {
            port: 443,
            targets: some(
              hosts.map((h) => h.id),
              8,
            ),
            targetPort: 8443,
          },
        ],
        ...(r.chance(40) ? { ruleSets: ['web'] } : {}),
        ...state(),
      },
    },
    nameZones: {
      'x.internal': {
        records: { 'db.x.internal': ['10.1.1.10', '10.3.2.11'] },
        linkedTo: some(NETWORKS, 60),
      },
    },
  }
  const ends = [
    '198.51.100.130',
    '192.0.2.10',
    '192.0.2.70',
    ...hosts.map((h) => `interface:${h.id}`),
    ...Object.keys(subnets).map((id) => `subnet:${id}`),
    'internet',
    'site:harbour',
    'site:yard',
    'party:broker',
    'service:store',
    'service:queue',
    '198.51.100.80',
    '203.0.113.1',
    '203.0.113.77',
    '203.0.113.95',
    '203.0.113.100',
    '10.2.1.200',
    '10.1.2.99',
    '10.1.9.9',
    '10.3.200.1',
    '2001:db8:1:1::10',
    '2001:db8:2:2::11',
    '2001:db8:ffff::1',
    'name:db.x.internal',
    'name:queue.example',
  ]
  return { estate, ends }
}
