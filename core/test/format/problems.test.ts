import { readEstate, type Problem } from '../../src/index'

const HEAD = 'format: salt-trail/1\nname: Try\n'

/** A small estate that is valid, in lines, so that a case can add to it and say where its fault stands. */
const BASE = `${HEAD}regions:
  north: { zones: [n1, n2] }
  south: { zones: [s1] }
networks:
  shop: { region: north, ranges: [10.1.0.0/16, "2001:db8:1::/56"], defaultRouteTable: main }
  pier: { ranges: [10.2.0.0/16] }
subnets:
  web: { network: shop, ranges: [10.1.1.0/24], zone: n1 }
routeTables:
  main: { network: shop }
`
const LINES = BASE.split('\n').length - 1

const read = (text: string): readonly Problem[] => readEstate([{ name: 'try.yaml', text }]).problems

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
  'an unknown section': { code: 'unknown-key', add: 'intefaces: {}', line: 1, column: 1, object: null, suggestion: 'interfaces' },
  'an unknown key': { code: 'unknown-key', add: 'interfaces:\n  a: { subnets: web }', line: 2, column: 8, object: 'interfaces/a', suggestion: 'subnet' },
  'an unknown key inside': {
    code: 'unknown-key',
    add: 'nats:\n  n: { placement: { subnet: web, zon: n1 } }',
    line: 2,
    column: 34,
    object: 'nats/n',
  },
  'a missing key': { code: 'missing-key', add: 'gateways:\n  g: { network: shop }', line: 2, column: 3, object: 'gateways/g' },
  'a wrong word': {
    code: 'bad-value',
    add: 'gateways:\n  g: { kind: intrnet, network: shop }',
    line: 2,
    column: 14,
    object: 'gateways/g',
    suggestion: 'internet',
  },
  'a wrong type': { code: 'wrong-type', add: 'sites:\n  s: { internet: [1] }', line: 2, column: 18, object: 'sites/s' },
  'a number for a text': { code: 'wrong-type', add: 'sites:\n  s: { title: 12 }', line: 2, column: 15, object: 'sites/s' },
  'a bad id': { code: 'bad-id', add: 'sites:\n  "harbour control": {}', line: 2, column: 3, object: 'sites/harbour control' },
  'a bad address': { code: 'bad-address', add: 'interfaces:\n  a: { subnet: web, addresses: [10.1.1.300] }', line: 2, column: 33, object: 'interfaces/a' },
  'an address as a key that is none': {
    code: 'bad-address',
    add: 'publicAddresses:\n  203.0.113: {}',
    line: 2,
    column: 3,
    object: 'publicAddresses/203.0.113',
  },
  'host bits': { code: 'host-bits', add: 'sites:\n  s: { ranges: [172.20.1.0/16] }', line: 2, column: 17, object: 'sites/s', suggestion: '172.20.0.0/16' },
  'a prefix without length': {
    code: 'bad-prefix',
    add: 'sites:\n  s: { ranges: [172.20.1.0] }',
    line: 2,
    column: 17,
    object: 'sites/s',
    suggestion: '172.20.1.0/32',
  },
  'no prefix at all': { code: 'bad-prefix', add: 'sites:\n  s: { ranges: [here] }', line: 2, column: 17, object: 'sites/s' },
  'the same id twice': { code: 'duplicate-id', add: 'sites:\n  s: {}\n  s: {}', line: 3, column: 3, object: 'sites/s' },
  'the same key twice': { code: 'duplicate-key', add: 'sites:\n  s: { title: a, title: b }', line: 2, column: 18, object: 'sites/s' },
  'the same section twice': { code: 'duplicate-key', add: 'sites: {}\nsites: {}', line: 2, column: 1, object: null },
  'a dangling reference': {
    code: 'dangling-reference',
    add: 'interfaces:\n  a: { subnet: wbe }',
    line: 2,
    column: 16,
    object: 'interfaces/a',
    suggestion: 'web',
  },
  'a dangling zone': { code: 'dangling-reference', add: 'subnets2: {}', line: 1, column: 1, object: null },
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
  'two subnets overlapping': { code: 'subnets-overlap', add: 'SUBNET a: { network: shop, ranges: [10.1.1.128/25] }', line: 1, column: 37, object: 'subnets/a' },
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
  'an id in two sections': { code: 'id-in-two-sections', severity: 'warning', add: 'sites:\n  web: {}', line: 2, column: 3, object: 'sites/web' },
}

/** A case for a section the base has already goes into a file of its own: documents are merged by section. */
function filesOf(add: string): { name: string; text: string }[] {
  const section = /^(SUBNET|ROUTES) /.exec(add)?.[1]
  if (!section) return [{ name: 'try.yaml', text: `${BASE}${add}\n` }]
  const body = add.replace(/^(SUBNET|ROUTES) /, '')
  return [
    { name: 'base.yaml', text: BASE },
    { name: 'try.yaml', text: `${section === 'SUBNET' ? 'subnets' : 'routeTables'}: { ${body} }\n` },
  ]
}

describe('each fault is told with its place', () => {
  test.each(Object.entries(WRONG).filter(([name]) => name !== 'a dangling zone'))('%s', (_, wrong) => {
    const files = filesOf(wrong.add)
    const { estate, problems } = readEstate(files)
    const inOwnFile = files.length > 1
    const prefix = inOwnFile ? (wrong.add.startsWith('SUBNET') ? 'subnets: { '.length - 'SUBNET '.length : 'routeTables: { '.length - 'ROUTES '.length) : 0
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
  })

  test('a zone that no region has', () => {
    const problems = read(BASE.replace('zone: n1 }', 'zone: n3 }'))
    expect(problems).toMatchObject([{ code: 'dangling-reference', object: 'subnets/web', suggestion: 'n1' }])
  })

  test('networks that overlap and are connected', () => {
    const overlapping = BASE.replace('pier: { ranges: [10.2.0.0/16] }', 'pier: { ranges: [10.1.128.0/17] }')
    const peered = `${overlapping}peerings:\n  p: { a: { network: shop }, b: { network: pier } }\n`
    expect(read(overlapping)).toEqual([])
    expect(read(peered)).toMatchObject([{ severity: 'warning', code: 'networks-overlap', object: 'peerings/p' }])
    const transit = `${overlapping}transits:\n  t: { attachments: { a: { network: shop }, b: { network: pier } } }\n`
    expect(read(transit)).toMatchObject([{ code: 'networks-overlap', object: 'transits/t' }])
    const site = `${overlapping}sites:\n  s: {}\ngateways:\n  g1: { kind: private, network: shop, site: s }\n  g2: { kind: private, network: pier, site: s }\n`
    expect(read(site)).toMatchObject([{ code: 'networks-overlap', object: 'sites/s' }])
  })

  test('two routes to one prefix are fine in a priority-routed network', () => {
    const text = BASE.replace('pier: { ranges', 'pier: { behaviour: priority-routed, ranges').replace(
      'main: { network: shop }',
      'main: { network: shop }\n  all: { network: pier, routes: [{ to: 0.0.0.0/0, via: drop }, { to: 0.0.0.0/0, via: local }] }',
    )
    expect(read(text)).toEqual([])
  })
})

test('everything wrong is told at once, in order', () => {
  const text = `${HEAD}networks:\n  a: { ranges: [10.0.0.1/8], colour: blue }\nsubnets:\n  s: { network: b, ranges: [10.0.0.0/33] }\nsties: {}\n`
  expect(read(text).map((p) => [p.line, p.code])).toEqual([
    [4, 'host-bits'],
    [4, 'unknown-key'],
    [6, 'bad-prefix'],
    [7, 'unknown-key'],
  ])
})

test('a route may lead to what is not there, everything else may not', () => {
  expect(
    read(
      `${HEAD}networks:\n  n: { ranges: [10.0.0.0/8] }\nrouteTables:\n  t: { network: n, routes: [{ to: 0.0.0.0/0, via: { nat: gone } }, { to: { prefixList: gone }, via: drop }] }\n`,
    ),
  ).toEqual([])
})

test('an inline firewall without a label: the error lists the labels there are', () => {
  const gate = 'firewalls:\n  gate: { style: inline, network: shop, endpoints: { n1: { subnet: web }, n2: { subnet: web } } }\n'
  const route = 'routeTables:\n  t: { network: shop, routes: [{ to: 0.0.0.0/0, via: { inspect: gate } }] }\n'
  const problems = read(BASE + gate + '---\n' + route)
  expect(problems).toMatchObject([{ code: 'missing-endpoint-label', message: expect.stringContaining('one of gate/n1, gate/n2') }])
  expect(read(BASE + gate + '---\n' + route.replace('inspect: gate', 'inspect: gate/n3'))).toEqual([])
})

describe('the character U+0000', () => {
  const at = (problems: readonly Problem[]) => problems.map(({ code, line, column, object }) => ({ code, line, column, object }))
  test('is refused in any text of an object, with its place', () => {
    const text = `${HEAD}sites:\n  s: { title: "a\\0b", tags: { k: "\\u0000" } }\n`
    expect(at(read(text))).toEqual([
      { code: 'bad-text', line: 4, column: 15, object: 'sites/s' },
      { code: 'bad-text', line: 4, column: 34, object: 'sites/s' },
    ])
  })
  test('is refused in a key and in the name, in JSON', () => {
    const text = '{"format":"salt-trail/1","name":"a\\u0000",\n"sites":{"s":{"tags":{"k\\u0000":"v"}}}}'
    expect(at(read(text))).toEqual([
      { code: 'bad-text', line: 1, column: 33, object: null },
      { code: 'bad-text', line: 2, column: 23, object: 'sites/s' },
    ])
  })
  test('does not let a text through that only looks like it', () => {
    expect(read(`${HEAD}sites:\n  s: { title: 'a\\0b' }\n`)).toEqual([])
  })
})

describe('the head', () => {
  test('a name has at most 200 characters', () => {
    expect(read(`format: salt-trail/1\nname: ${'x'.repeat(200)}\n`)).toEqual([])
    expect(read(`format: salt-trail/1\nname: ${'x'.repeat(201)}\n`)).toMatchObject([{ code: 'out-of-range', line: 2, column: 7 }])
  })
  test.each([
    ['name: x\n', 'missing-key'],
    ['format: salt-trail/1\n', 'missing-key'],
    ['format: salt-trail/2\nname: x\n', 'bad-format'],
    ['format: [1]\nname: x\n', 'wrong-type'],
    ['', 'empty'],
    ['- a\n', 'wrong-type'],
  ])('%j', (text, code) => {
    expect(read(text).map((p) => p.code)).toContain(code)
  })
})

test('syntax errors have a place and do not end the reading', () => {
  const problems = read(`${HEAD}networks:\n  a: { ranges: [10.0.0.0/8 }\nsites:\n  s: { ranges: [1.2.3.4/8] }\n`)
  expect(problems.some((p) => p.code === 'syntax' && p.line === 4)).toBe(true)
})

describe('limits', () => {
  const limits = { bytes: 1e6, subnets: 1, routes: 1, rules: 1, aliases: 3, depth: 10 }
  const code = (text: string): string[] => readEstate([{ name: 'x', text }], limits).problems.map((p) => p.code)
  test('bytes', () => expect(code(`${HEAD}#${'x'.repeat(1e6)}`)).toEqual(['limit-bytes']))
  test('subnets', () => expect(code(`${BASE}---\nsubnets:\n  b: { network: pier, ranges: [10.2.0.0/24] }\n`)).toEqual(['limit-subnets']))
  test('routes', () =>
    expect(code(`${HEAD}routeTables:\n  t: { routes: [{ to: 0.0.0.0/0, via: drop }, { to: "::/0", via: drop }] }\n`)).toEqual(['limit-routes']))
  test('rules', () => expect(code(`${HEAD}ruleSets:\n  t: { rules: [{ direction: in }, { direction: out }] }\n`)).toEqual(['limit-rules']))
  test('aliases', () => expect(code(`${HEAD}sites:\n  a: &x { ranges: [10.0.0.0/8] }\n  b: *x\n  c: *x\n  d: *x\n  e: *x\n`)).toContain('limit-aliases'))
  test('depth', () => expect(code(`${HEAD}sites:\n  a: ${'['.repeat(40)}${']'.repeat(40)}\n`)).toContain('limit-depth'))
  test('nesting that would exhaust any stack', () => expect(code(`${HEAD}sites: ${'['.repeat(200_000)}`).length).toBeGreaterThan(0))
  test.each([
    ['{"sites":{"s":', 1013],
    ['sites: ', 1008],
  ])('JSON or YAML nested 100,000 deep is one problem with a place: %s', (head, column) => {
    const problems = readEstate([{ name: 'x', text: `${head}${'[['.repeat(50_000)}` }]).problems
    expect(problems).toMatchObject([{ code: 'limit-depth', line: 1, column }])
  })
  test('200,000 problems are all told', () => {
    const networks = Array.from({ length: 200_000 }, (_, n) => `"i${n}":{"subnet":"gone"}`)
    const problems = read(`{"format":"salt-trail/1","name":"x","interfaces":{${networks.join()}}}`)
    expect(problems).toHaveLength(200_000)
  })
  test('aliases within aliases do not explode', () => {
    const bomb = `${HEAD}a: &a [x, x]\nb: &b [*a, *a]\nc: &c [*b, *b]\nsites:\n  d: { title: [*c, *c, *c] }\n`
    expect(code(bomb)).toContain('limit-aliases')
  })
})
