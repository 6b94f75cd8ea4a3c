import { askRules, readEstate } from '../../src/index'
import { ruleText } from '../../src/rules/words'
import { wildcard } from '../../src/rules/applies-to'
import { modelOf } from '../trace/fixtures'

test.each([
  [{ direction: 'in' }, 'allow in any from any'],
  [
    { direction: 'out', protocol: 'tcp', ports: [443, '8000-8100'], peers: ['internet'] },
    'allow out tcp 443, 8000-8100 to internet',
  ],
  [
    { direction: 'in', action: 'deny', protocol: 'udp', sourcePorts: [53], peers: ['10.0.0.0/8'] },
    'deny in udp source port 53 from 10.0.0.0/8',
  ],
  [
    {
      direction: 'in',
      peers: [{ prefixList: 'l' }, { ruleSet: 'r' }, { service: 's' }, { tag: 'a=b' }],
    },
    'allow in any from list l, members of r, service s, tag a=b',
  ],
  [
    { direction: 'out', peers: [], local: ['10.1.0.0/16'] },
    'allow out any to nobody, near side 10.1.0.0/16',
  ],
] as const)('a rule in one line', (rule, text) => expect(ruleText(rule as never)).toBe(text))

test.each([
  ['*-spoke', 'north-spoke', true],
  ['*-spoke', 'spoke', false],
  ['a*b*c', 'a-b-b-c', true],
  ['a*b*c', 'a-c-b', false],
  ['exact', 'exact', true],
  ['exact', 'exactly', false],
  ['*', '', true],
  ['a*a', 'a', false],
])('%s covers %s: %s', (pattern, text, expected) => expect(wildcard(pattern, text)).toBe(expected))

const world = (rules: unknown, more: Record<string, unknown> = {}) =>
  modelOf({
    networks: { n: { ranges: ['10.1.0.0/16'] } },
    subnets: { s: { network: 'n', ranges: ['10.1.1.0/24'] } },
    interfaces: { i: { subnet: 's', addresses: ['10.1.1.9'], ruleSets: ['r'] } },
    ruleSets: { r: { rules } },
    ...more,
  })
const packet = { src: 0xc0000201, dst: 0x0a010109, protocol: 6, srcPort: 50000, dstPort: 443 }
const ask = (rules: unknown, more?: Record<string, unknown>, over: Partial<typeof packet> = {}) =>
  askRules(world(rules, more), {
    direction: 'in',
    place: { subnet: 0, interface: 0 },
    packet: { ...packet, ...over },
    crosses: true,
    answers: false,
    flowAllowedByEstate: false,
  })
const mismatchOf = (rule: object): string | null | undefined =>
  ask([{ direction: 'in', ...rule }]).levels[0]?.sets[0]?.rules[0]?.mismatch

describe('what of a rule does not fit is said', () => {
  test.each([
    [{ protocol: 'udp' }, 'protocol'],
    [{ ports: [80] }, 'port'],
    [{ ports: ['444-500'] }, 'port'],
    [{ sourcePorts: [1] }, 'source port'],
    [{ peers: ['10.0.0.0/8'] }, 'peer'],
    [{ local: ['10.2.0.0/16'] }, 'near side'],
    [{ protocol: 6, ports: [443], peers: ['192.0.2.0/24'], local: ['10.1.1.9/32'] }, null],
  ])('%j', (rule, mismatch) => expect(mismatchOf(rule)).toBe(mismatch))
})

test('a port is asked of a protocol that has none: no match', () => {
  expect(
    ask(
      [{ direction: 'in', ports: [443] }],
      {},
      { protocol: 1, srcPort: null as never, dstPort: null as never },
    ).passes,
  ).toBe(false)
})

test('rules of the other direction are not asked', () => {
  expect(ask([{ direction: 'out' }]).levels[0]?.sets[0]?.rules).toEqual([])
})

test('an estate rule that matches nothing leaves all levels to decide', () => {
  const estateRules = [{ order: 1, direction: 'in', action: 'deny', ports: [22] }]
  const verdict = ask([{ direction: 'in' }], { estateRules })
  expect(verdict.passes).toBe(true)
  expect(verdict.levels.map((level) => level.level)).toEqual(['estate', 'interface'])
})

test('an estate rule that is not up is not asked', () => {
  const estateRules = [{ order: 1, direction: 'in', action: 'deny', state: 'pending' }]
  expect(ask([{ direction: 'in' }], { estateRules }).passes).toBe(true)
})

test('group conditions choose by tag, region and name, without the excepted', () => {
  const base = {
    regions: { north: { zones: ['n1'] } },
    networks: { n: { ranges: ['10.1.0.0/16'], region: 'north', tags: { team: 'sales' } } },
  }
  const denied = (group: object): boolean =>
    !ask([{ direction: 'in' }], {
      ...base,
      groups: { g: { section: 'networks', ...group } },
      estateRules: [{ order: 1, direction: 'in', action: 'deny', appliesTo: ['groups/g'] }],
    }).passes
  expect(denied({ members: ['n'] })).toBe(true)
  expect(denied({ where: { tag: 'team=sales' } })).toBe(true)
  expect(denied({ where: { tag: 'team=crew' } })).toBe(false)
  expect(denied({ where: { region: 'north', name: 'n*' } })).toBe(true)
  expect(denied({ where: { region: 'north' }, except: ['n'] })).toBe(false)
  expect(denied({ members: [] })).toBe(false)
})

test('the reader knows the tour’s way of writing peers', () => {
  const { problems } = readEstate([
    {
      name: 'x',
      text: 'format: salt-trail/1\nname: x\nruleSets:\n  r: { rules: [{ direction: in, peers: [everyone] }] }\n',
    },
  ])
  expect(problems).toMatchObject([{ code: 'bad-prefix', object: 'ruleSets/r' }])
  expect(problems[0]!.message).toContain('the words any, internet fit too')
})
