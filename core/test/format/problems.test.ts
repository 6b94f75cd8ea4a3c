import { readEstate } from '../../src/index'
import { BASE, HEAD, LINES, read } from './base'

test('the base is valid', () => {
  expect(read(BASE)).toEqual([])
})

interface Wrong {
  readonly code: string
  /** Text put after the base; `section:` lines that the base has are merged by hand where needed. */
  readonly add: string
  /** Where it is reported, counted from the first added line. */
  readonly line: number
  readonly column: number
  readonly object: string | null
  readonly suggestion?: string
  readonly severity?: 'warning'
}

const WRONG: Record<string, Wrong> = {
  'an unknown section': {
    code: 'unknown-key',
    add: 'intefaces: {}',
    line: 1,
    column: 1,
    object: null,
    suggestion: 'interfaces',
  },
  'an unknown key': {
    code: 'unknown-key',
    add: 'interfaces:\n  a: { subnets: web }',
    line: 2,
    column: 8,
    object: 'interfaces/a',
    suggestion: 'subnet',
  },
  'an unknown key inside': {
    code: 'unknown-key',
    add: 'nats:\n  n: { placement: { subnet: web, zon: n1 } }',
    line: 2,
    column: 34,
    object: 'nats/n',
  },
  'a missing key': {
    code: 'missing-key',
    add: 'gateways:\n  g: { network: shop }',
    line: 2,
    column: 3,
    object: 'gateways/g',
  },
  'a wrong word': {
    code: 'bad-value',
    add: 'gateways:\n  g: { kind: intrnet, network: shop }',
    line: 2,
    column: 14,
    object: 'gateways/g',
    suggestion: 'internet',
  },
  'a wrong type': {
    code: 'wrong-type',
    add: 'sites:\n  s: { internet: [1] }',
    line: 2,
    column: 18,
    object: 'sites/s',
  },
  'a number for a text': {
    code: 'wrong-type',
    add: 'sites:\n  s: { title: 12 }',
    line: 2,
    column: 15,
    object: 'sites/s',
  },
  'a bad id': {
    code: 'bad-id',
    add: 'sites:\n  "harbour control": {}',
    line: 2,
    column: 3,
    object: 'sites/harbour control',
  },
  'a bad address': {
    code: 'bad-address',
    add: 'interfaces:\n  a: { subnet: web, addresses: [10.1.1.300] }',
    line: 2,
    column: 33,
    object: 'interfaces/a',
  },
  'an address as a key that is none': {
    code: 'bad-address',
    add: 'publicAddresses:\n  203.0.113: {}',
    line: 2,
    column: 3,
    object: 'publicAddresses/203.0.113',
  },
  'host bits': {
    code: 'host-bits',
    add: 'sites:\n  s: { ranges: [172.20.1.0/16] }',
    line: 2,
    column: 17,
    object: 'sites/s',
    suggestion: '172.20.0.0/16',
  },
  'a prefix without length': {
    code: 'bad-prefix',
    add: 'sites:\n  s: { ranges: [172.20.1.0] }',
    line: 2,
    column: 17,
    object: 'sites/s',
    suggestion: '172.20.1.0/32',
  },
  'no prefix at all': {
    code: 'bad-prefix',
    add: 'sites:\n  s: { ranges: [here] }',
    line: 2,
    column: 17,
    object: 'sites/s',
  },
  'the same id twice': {
    code: 'duplicate-id',
    add: 'sites:\n  s: {}\n  s: {}',
    line: 3,
    column: 3,
    object: 'sites/s',
  },
  'the same key twice': {
    code: 'duplicate-key',
    add: 'sites:\n  s: { title: a, title: b }',
    line: 2,
    column: 18,
    object: 'sites/s',
  },
  'the same section twice': {
    code: 'duplicate-key',
    add: 'sites: {}\nsites: {}',
    line: 2,
    column: 1,
    object: null,
  },
  'a dangling reference': {
    code: 'dangling-reference',
    add: 'interfaces:\n  a: { subnet: wbe }',
    line: 2,
    column: 16,
    object: 'interfaces/a',
    suggestion: 'web',
  },
  'a dangling zone': {
    code: 'dangling-reference',
    add: 'subnets2: {}',
    line: 1,
    column: 1,
    object: null,
  },
  'a dangling peer': {
    code: 'dangling-reference',
    add: 'ruleSets:\n  r: { rules: [{ direction: in, peers: [{ prefixList: sites }] }] }',
    line: 2,
    column: 55,
    object: 'ruleSets/r',
  },
  'an estate rule for nothing': {
    code: 'dangling-reference',
    add: 'estateRules:\n  - { order: 7, direction: in, action: deny, appliesTo: [subnets/wep] }',
    line: 2,
    column: 58,
    object: 'estateRules/7',
    suggestion: 'web',
  },
  'a zone and a region': {
    code: 'zone-and-region',
    add: 'SUBNET a: { network: shop, ranges: [10.1.2.0/24], zone: n1, region: north }',
    line: 1,
    column: 61,
    object: 'subnets/a',
  },
  'a zone of another region': {
    code: 'subnet-other-region',
    add: 'SUBNET a: { network: shop, ranges: [10.1.2.0/24], zone: s1 }',
    line: 1,
    column: 57,
    object: 'subnets/a',
  },
  'a region that is not the network’s': {
    code: 'subnet-other-region',
    add: 'SUBNET a: { network: shop, ranges: [10.1.2.0/24], region: south }',
    line: 1,
    column: 59,
    object: 'subnets/a',
  },
  'outside its network': {
    code: 'subnet-outside-network',
    add: 'SUBNET a: { network: shop, ranges: [10.3.0.0/24] }',
    line: 1,
    column: 37,
    object: 'subnets/a',
  },
  'a named range outside': {
    code: 'subnet-outside-network',
    add: 'SUBNET a: { network: shop, ranges: [10.1.2.0/24], namedRanges: { pods: 10.3.0.0/24 } }',
    line: 1,
    column: 72,
    object: 'subnets/a',
  },
  'two subnets overlapping': {
    code: 'subnets-overlap',
    add: 'SUBNET a: { network: shop, ranges: [10.1.1.128/25] }',
    line: 1,
    column: 37,
    object: 'subnets/a',
  },
  'a table of another network': {
    code: 'table-of-other-network',
    add: 'SUBNET a: { network: pier, ranges: [10.2.2.0/24], routeTable: main }',
    line: 1,
    column: 63,
    object: 'subnets/a',
  },
  'an address outside its subnet': {
    code: 'address-outside-subnet',
    add: 'interfaces:\n  a: { subnet: web, addresses: [10.1.2.9] }',
    line: 2,
    column: 33,
    object: 'interfaces/a',
  },
  'an address twice': {
    code: 'duplicate-address',
    add: 'interfaces:\n  a: { subnet: web, addresses: [10.1.1.9] }\n  b: { subnet: web, addresses: [10.1.1.9] }',
    line: 3,
    column: 33,
    object: 'interfaces/b',
  },
  'order on some rules': {
    code: 'order-on-some',
    add: 'ruleSets:\n  r:\n    rules:\n      - { order: 1, direction: in }\n      - { direction: out }',
    line: 5,
    column: 9,
    object: 'ruleSets/r',
  },
  'two routes to one prefix': {
    code: 'duplicate-route',
    add: 'ROUTES t: { network: shop, routes: [{ to: 0.0.0.0/0, via: drop }, { to: 0.0.0.0/0, via: local }] }',
    line: 1,
    column: 73,
    object: 'routeTables/t',
  },
  'an inline firewall without the label of an endpoint': {
    code: 'missing-endpoint-label',
    add: 'ROUTES t: { network: shop, routes: [{ to: 0.0.0.0/0, via: { inspect: gate } }] }',
    line: 1,
    column: 70,
    object: 'routeTables/t',
  },
  'the same IPv6 prefix written in two ways': {
    code: 'duplicate-route',
    add: 'ROUTES t: { network: shop, routes: [{ to: "2001:db8::/32", via: drop }, { to: "2001:DB8:0::/32", via: local }] }',
    line: 1,
    column: 79,
    object: 'routeTables/t',
  },
  'ports without a protocol that has them': {
    code: 'ports-without-protocol',
    add: 'ruleSets:\n  r: { rules: [{ direction: in, protocol: icmp, ports: [8] }] }',
    line: 2,
    column: 49,
    object: 'ruleSets/r',
  },
  'ports the wrong way round': {
    code: 'bad-ports',
    add: 'ruleSets:\n  r: { rules: [{ direction: in, ports: [90-80] }] }',
    line: 2,
    column: 41,
    object: 'ruleSets/r',
  },
  'IPv4 by way of IPv6': {
    code: 'mixed-families',
    add: 'ROUTES t: { network: shop, routes: [{ to: 0.0.0.0/0, via: { address: "2001:db8:1::9" } }] }',
    line: 1,
    column: 59,
    object: 'routeTables/t',
  },
  'two next hops': {
    code: 'one-of',
    add: 'ROUTES t: { network: shop, routes: [{ to: 0.0.0.0/0, via: { nat: a, gateway: b } }] }',
    line: 1,
    column: 59,
    object: 'routeTables/t',
  },
  'rules with automatic allocation': {
    code: 'rules-with-automatic-allocation',
    add: 'nats:\n  n: { network: shop, allocation: automatic, rules: [{ order: 1, to: [192.0.2.0/24], use: [203.0.113.1] }] }',
    line: 2,
    column: 46,
    object: 'nats/n',
  },
  'draining what it does not have': {
    code: 'draining-unknown',
    add: 'nats:\n  n: { network: shop, addresses: [203.0.113.1], draining: [203.0.113.2] }',
    line: 2,
    column: 60,
    object: 'nats/n',
  },
  'a group with members of another section': {
    code: 'group-member',
    add: 'groups:\n  g: { section: networks, members: [web] }',
    line: 2,
    column: 37,
    object: 'groups/g',
  },
  'a planned range that is taken': {
    code: 'planned-range-collision',
    severity: 'warning',
    add: 'plannedRanges:\n  p: { ranges: [10.2.128.0/17] }',
    line: 2,
    column: 3,
    object: 'plannedRanges/p',
  },
  'a reserved address': {
    code: 'reserved-address',
    severity: 'warning',
    add: 'interfaces:\n  a: { subnet: web, addresses: [10.1.1.3] }',
    line: 2,
    column: 33,
    object: 'interfaces/a',
  },
  'the last address': {
    code: 'reserved-address',
    severity: 'warning',
    add: 'interfaces:\n  a: { subnet: web, addresses: [10.1.1.255] }',
    line: 2,
    column: 33,
    object: 'interfaces/a',
  },
  'an id in two sections': {
    code: 'id-in-two-sections',
    severity: 'warning',
    add: 'sites:\n  web: {}',
    line: 2,
    column: 3,
    object: 'sites/web',
  },
}

/** A case for a section the base has already goes into a file of its own: documents are merged by section. */
function filesOf(add: string): { name: string; text: string }[] {
  const section = /^(SUBNET|ROUTES) /.exec(add)?.[1]
  if (!section) return [{ name: 'try.yaml', text: `${BASE}${add}\n` }]
  const body = add.replace(/^(SUBNET|ROUTES) /, '')
  return [
    { name: 'base.yaml', text: BASE },
    {
      name: 'try.yaml',
      text: `${section === 'SUBNET' ? 'subnets' : 'routeTables'}: { ${body} }\n`,
    },
  ]
}

describe('each fault is told with its place', () => {
  test.each(Object.entries(WRONG).filter(([name]) => name !== 'a dangling zone'))(
    '%s',
    (_, wrong) => {
      const files = filesOf(wrong.add)
      const { estate, problems } = readEstate(files)
      const inOwnFile = files.length > 1
      const prefix = inOwnFile
        ? wrong.add.startsWith('SUBNET')
          ? 'subnets: { '.length - 'SUBNET '.length
          : 'routeTables: { '.length - 'ROUTES '.length
        : 0
      expect(problems).toHaveLength(1)
      expect(problems[0]).toMatchObject({
        severity: wrong.severity ?? 'error',
        code: wrong.code,
        file: 'try.yaml',
        line: inOwnFile ? 1 : LINES + wrong.line,
        column: wrong.column + prefix,
        object: wrong.object,
        ...(wrong.suggestion === undefined ? {} : { suggestion: wrong.suggestion }),
      })
      expect(estate === null).toBe(wrong.severity !== 'warning')
    },
  )

  test('a zone that no region has', () => {
    const problems = read(BASE.replace('zone: n1 }', 'zone: n3 }'))
    expect(problems).toMatchObject([
      { code: 'dangling-reference', object: 'subnets/web', suggestion: 'n1' },
    ])
  })

  test('networks that overlap and are connected', () => {
    const overlapping = BASE.replace(
      'pier: { ranges: [10.2.0.0/16] }',
      'pier: { ranges: [10.1.128.0/17] }',
    )
    const peered = `${overlapping}peerings:\n  p: { a: { network: shop }, b: { network: pier } }\n`
    expect(read(overlapping)).toEqual([])
    expect(read(peered)).toMatchObject([
      { severity: 'warning', code: 'networks-overlap', object: 'peerings/p' },
    ])
    const transit = `${overlapping}transits:\n  t: { attachments: { a: { network: shop }, b: { network: pier } } }\n`
    expect(read(transit)).toMatchObject([{ code: 'networks-overlap', object: 'transits/t' }])
    const site = `${overlapping}sites:\n  s: {}\ngateways:\n  g1: { kind: private, network: shop, site: s }\n  g2: { kind: private, network: pier, site: s }\n`
    expect(read(site)).toMatchObject([{ code: 'networks-overlap', object: 'sites/s' }])
  })

  test('two routes to one prefix are fine in a priority-routed network', () => {
    const text = BASE.replace(
      'pier: { ranges',
      'pier: { behaviour: priority-routed, ranges',
    ).replace(
      'main: { network: shop }',
      'main: { network: shop }\n  all: { network: pier, routes: [{ to: 0.0.0.0/0, via: drop }, { to: 0.0.0.0/0, via: local }] }',
    )
    expect(read(text)).toEqual([])
  })
})
