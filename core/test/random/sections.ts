import type { Random } from './random'

/** Sections of random estates, each made of what was made before it. */
export type Json = Record<string, unknown>

export const NETWORKS = ['a', 'b', 'c', 'd']

export interface Host {
  readonly id: string
  readonly network: string
  readonly subnet: string
  readonly address: string
}

/** What the sections of one estate share. */
export interface Given {
  readonly r: Random
  /** In a calm estate fewer things are down or shut. */
  readonly calm: boolean
  /** The network that the routed firewall stands in. */
  readonly wallAt: string
  readonly state: () => Json
  readonly some: <T>(from: readonly T[], percent: number) => T[]
  readonly subnetsOf: Readonly<Record<string, readonly string[]>>
  readonly hosts: readonly Host[]
}

export function randomTransits({ r, state, some, subnetsOf }: Given): Json {
  const attach = (network: string): Json => ({
    network,
    subnets: some(subnetsOf[network]!, 60),
    table: r.pick(['x', 'y']),
    ...state(),
  })
  const learn = (names: string[]): unknown => r.pick<unknown>(['all', 'none', some(names, 60)])
  return {
    r: {
      attachments: {
        a: attach('a'),
        b: attach('b'),
        c: attach('c'),
        h: { gateway: 'd-circuit', table: 'x' },
        q: { transit: 'q', table: 'x' },
      },
      tables: {
        x: {
          learn: learn(['a', 'b', 'c', 'h', 'q']),
          routes: [{ to: '0.0.0.0/0', via: r.pick(['a', 'b', 'q', 'drop']) }],
        },
        y: { learn: learn(['a', 'c']), routes: [{ to: '10.4.0.0/16', via: 'q' }] },
      },
      ...state(),
    },
    q: {
      attachments: { c: attach('c'), d: attach('d'), r: { transit: 'r', table: 'x' } },
      tables: {
        x: {
          learn: learn(['c', 'd']),
          routes: [
            { to: '10.0.0.0/8', via: r.pick(['r', 'd']) },
            ...(r.chance(30) ? [{ to: '10.4.0.0/16', via: r.pick(['r', 'drop']) }] : []),
          ],
        },
        y: { learn: learn(['d', 'r']) },
      },
      ...state(),
    },
  }
}

export function randomFirewalls({ r, calm, wallAt, state, subnetsOf, hosts }: Given): Json {
  const policy = (sides: boolean): unknown[] => [
    ...(r.chance(20)
      ? [
          {
            order: 0,
            protocol: 'udp',
            sourcePorts: ['1024-65535'],
            to: [{ prefixList: 'list' }],
            application: 'names',
            action: r.pick(['allow', 'deny']),
          },
        ]
      : []),
    {
      order: 1,
      ...(sides && r.chance(50)
        ? { fromSide: 'inside', toSide: r.pick(['inside', 'outside']) }
        : {}),
      protocol: 'tcp',
      ports: [443],
      action: r.pick(['allow', 'allow', 'deny']),
    },
    {
      order: 2,
      from: [r.pick(['10.1.0.0/16', '10.0.0.0/8'])],
      to: [r.pick<unknown>(['10.2.0.0/16', '0.0.0.0/0', { ruleSet: 'members' }])],
      action: r.pick(['allow', 'deny']),
    },
  ]
  return {
    wall: {
      style: 'routed',
      interfaces: { inside: `${wallAt}-s0-h0`, outside: `${wallAt}-s1-h0` },
      ...(r.chance(80)
        ? {
            routes: [
              {
                to: '0.0.0.0/0',
                via: { address: `10.${NETWORKS.indexOf(wallAt) + 1}.2.${r.pick([1, 11])}` },
              },
              {
                to: '10.0.0.0/8',
                via: r.chance(80) ? { address: `10.${NETWORKS.indexOf(wallAt) + 1}.1.1` } : 'drop',
              },
            ],
          }
        : {}),
      policy: policy(true),
      otherwise: r.pick(calm ? ['allow'] : ['allow', 'deny']),
      ...(r.chance(25) ? { stateful: false } : {}),
      ...(r.chance(60)
        ? {
            sourceTranslation: [
              {
                fromSide: 'inside',
                toSide: 'outside',
                use: r.pick<unknown>(['interface', ['203.0.113.90']]),
              },
            ],
          }
        : {}),
      ...(r.chance(60)
        ? {
            destinationTranslation: [
              {
                at: 'outside',
                protocol: 'tcp',
                port: 443,
                forward: { address: r.pick(hosts).address, port: 8443 },
              },
            ],
          }
        : {}),
      ...state(),
    },
    gate: {
      style: 'inline',
      network: r.pick(NETWORKS),
      endpoints: {
        one: { subnet: r.pick(calm ? subnetsOf[wallAt]! : Object.values(subnetsOf).flat()) },
        two: { subnet: r.pick(Object.values(subnetsOf).flat()), ...state() },
      },
      policy: policy(false),
      otherwise: r.pick(calm ? ['allow'] : ['allow', 'deny']),
      ...(r.chance(25) ? { stateful: false } : {}),
      ...state(),
    },
  }
}

export function randomRuleSets({ r }: Given): Json {
  return {
    open: {
      ...(r.chance(5) ? { state: 'deleted' } : {}),
      rules: [{ direction: 'in' }, { direction: 'out' }],
    },
    web: {
      stateful: r.chance(80),
      rules: [
        {
          direction: 'in',
          protocol: 'tcp',
          ports: [443, 8443],
          peers: [r.pick<unknown>(['any', 'internet', '10.0.0.0/8', { tag: 'tier=x' }])],
        },
        {
          direction: 'out',
          peers: ['any'],
          ...(r.chance(20) ? { local: ['10.0.0.0/9'] } : {}),
          ...(r.chance(20) ? { sourcePorts: ['1024-65535'] } : {}),
        },
      ],
    },
    list: {
      stateful: r.chance(30),
      rules: [
        {
          order: 20,
          direction: 'in',
          action: 'allow',
          protocol: 'tcp',
          ports: [443],
          peers: ['any'],
        },
        { order: 10, direction: 'in', action: 'deny', peers: ['10.2.0.0/16'] },
        { order: 10, direction: 'out', action: 'allow', protocol: 'tcp', ports: ['1024-65535'] },
        {
          order: 20,
          direction: 'out',
          action: r.pick(['allow', 'deny']),
          peers: [{ prefixList: 'list' }],
        },
      ],
      otherwise: { in: r.pick(['allow', 'deny']), out: r.pick(['allow', 'deny']) },
    },
    members: {
      rules: [
        { direction: 'in', peers: [{ ruleSet: 'open' }] },
        { direction: 'out', peers: [{ service: 'store' }, '10.0.0.0/8'] },
      ],
    },
    shut: {
      ...(r.chance(30) ? { state: 'deleted' } : {}),
      ...(r.chance(30) ? { otherwise: { in: 'allow', out: 'deny' } } : {}),
    },
  }
}

export function randomEstateRules({ r }: Given): Json[] {
  return r.chance(40)
    ? [
        {
          order: 1,
          direction: 'in',
          action: r.pick(['deny', 'allow', 'defer']),
          protocol: 'tcp',
          ports: [443],
          peers: [r.pick<unknown>(['internet', '10.3.0.0/16'])],
          appliesTo: r.pick<unknown>([
            'all',
            ['networks/a', 'subnets/b-s1'],
            ['groups/some'],
            { tag: 'scope=cards' },
            { region: 'north' },
          ]),
        },
        {
          order: 2,
          direction: 'out',
          action: r.pick(['deny', 'allow', 'defer']),
          peers: ['10.4.0.0/16'],
        },
      ]
    : []
}
