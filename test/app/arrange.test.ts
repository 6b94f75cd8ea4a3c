import type { ExitWay, MarkedRow } from '@salt-trail/core'
import { arrange, type Arrangement } from '~/views/exits/arrange'
import { canOpen, MOST_MEMBERS, shownColumns, spreadOver } from '~/views/exits/columns'
import { cellOf, foundOfMember, type Direction } from '~/views/exits/cells'
import { differences } from '~/views/exits/compare'
import type { Outline } from '~/api/answers'
import { way } from './ways'

const wayBy = (by: string, more: Partial<ExitWay> = {}): ExitWay =>
  way({ kind: 'translated', by, way: [by], leavesBy: by, ...more })
const subnet = (id: string, network: string, zone: string | null, role: string | null) => ({
  id,
  title: null,
  network,
  ranges: ['10.1.1.0/24'],
  zone,
  region: 'north',
  role,
  table: null,
  ownTable: false,
})
const network = (id: string) => ({
  id,
  title: null,
  ranges: ['10.0.0.0/8'],
  behaviour: 'table-routed',
  region: 'north',
})
const outline = {
  networks: [network('pier'), network('quay'), network('empty')],
  subnets: [
    subnet('pier-a', 'pier', 'north-1', 'private'),
    subnet('quay-b', 'quay', 'north-1', 'public'),
    subnet('pier-c', 'pier', null, null),
  ],
  members: {
    services: ['store', 'queue'],
    sites: [],
    otherNetworks: Array.from({ length: MOST_MEMBERS + 1 }, (_, i) => `n${i}`),
  },
} as unknown as Outline
const row = (
  id: string,
  by: string,
  findings: MarkedRow['findings'] = {},
  entering: MarkedRow['entering'] = {},
): MarkedRow => ({
  subnet: id,
  internet: [wayBy(by)],
  services: [],
  sites: [],
  otherNetworks: [],
  sameNetwork: [],
  findings,
  entering,
  zone: null,
})
const leak = {
  fingerprint: 'f',
  family: 'leak',
  sentence: 's',
  anchor: 'subnets/quay-b',
  members: [],
  question: null,
} as const
const rows = [
  row('pier-a', 'nats/tide'),
  row('quay-b', 'gateways/door', { internet: [leak] }),
  row('pier-c', 'nats/tide', {}, { sites: [leak] }),
]
const plain: Arrangement = {
  by: 'network',
  onlyProblems: false,
  direction: 'leaving',
  find: '',
  folded: null,
}
const texts = (more: Partial<Arrangement>): string[] =>
  arrange(outline, rows, { ...plain, ...more }).map((item) =>
    item.kind === 'group' ? `# ${item.title}` : item.name,
  )

test('rows stand in groups, in the order of the estate', () => {
  expect(texts({})).toEqual(['# pier', 'a', 'c', '# quay', 'b', '# empty'])
  expect(texts({ by: 'zone' })).toEqual(['# north-1', 'pier-a', 'quay-b', '# north', 'pier-c'])
  expect(texts({ by: 'role' })).toEqual([
    '# private',
    'pier-a',
    '# public',
    'quay-b',
    '# no role',
    'pier-c',
  ])
})

test('rows are chosen by problems, by names and by ways', () => {
  expect(texts({ onlyProblems: true })).toEqual(['# quay', 'b'])
  expect(texts({ onlyProblems: true, direction: 'entering' })).toEqual(['# pier', 'c'])
  expect(texts({ find: 'tide' })).toEqual(['# pier', 'a', 'c'])
  expect(texts({ find: 'north-1' })).toEqual(['# pier', 'a', '# quay', 'b'])
  expect(texts({ find: 'nothing like it' })).toEqual([])
})

test('a column opens into its members, unless it has none', () => {
  expect(shownColumns(outline, ['services'], 'leaving').map(({ title }) => title)).toEqual([
    'Internet',
    'Services',
    'store',
    'queue',
    'Sites',
    'Other networks',
    'Same network',
  ])
  const openable = (direction: Direction) =>
    (['services', 'sites', 'otherNetworks', 'internet'] as const).map((key) =>
      canOpen(outline, key, direction),
    )
  expect([openable('leaving'), openable('entering')]).toEqual([
    [true, false, true, false],
    [false, false, true, false],
  ])
})

test('columns fill the room there is; one in which nothing can be stays narrow', () => {
  const columns = shownColumns(outline, [], 'leaving')
  const sites = columns.findIndex(({ key }) => key === 'sites')
  expect(outline.members.sites).toEqual([])
  const wide = spreadOver(columns, 2000)
  const whole = wide.reduce((sum, { width }) => sum + width, 0)
  expect(whole).toBeLessThanOrEqual(2000)
  expect(whole).toBeGreaterThan(2000 - columns.length)
  expect(wide[sites]).toEqual(columns[sites])
  expect(wide.every(({ width }, at) => width >= columns[at]!.width)).toBe(true)
  expect(spreadOver(columns, 300)).toBe(columns)
})

test('of very many members so many are shown as fit beside each other; names narrow them', () => {
  const members = (like: string) =>
    shownColumns(outline, ['otherNetworks'], 'entering', like).filter(
      ({ member }) => member !== null,
    )
  expect(members('')).toHaveLength(MOST_MEMBERS)
  expect(members('N39').map(({ where }) => where)).toEqual(['from n39'])
  // A short list needs no narrowing, so what was typed for another is not asked of it.
  expect(
    shownColumns(outline, ['services'], 'leaving', 'n39').filter(({ member }) => member !== null),
  ).toHaveLength(2)
})

test('of two rows only what differs is said', () => {
  const [a, b] = [
    cellOf([wayBy('nats/tide'), wayBy('gateways/six', { family: 6 })]),
    cellOf([wayBy('nats/ebb'), wayBy('gateways/six', { family: 6 })]),
  ]
  expect(differences([{ key: 'internet', title: 'Internet', a, b }])).toEqual([
    {
      title: 'Internet',
      a: ['IPv4: tide, seen as 203.0.113.5'],
      b: ['IPv4: ebb, seen as 203.0.113.5'],
    },
  ])
  expect(differences([{ key: 'internet', title: 'Internet', a, b: a }])).toEqual([])
})

test('a member carries what names it, and what its packets are lost at', () => {
  const stuck = wayBy('nats/tide', {
    kind: 'lost',
    cause: { code: 'nat-without-way-out', object: 'nats/tide' },
  })
  const [named, anchored] = [
    { ...leak, members: ['store'] },
    { ...leak, anchor: 'nats/tide' },
  ]
  expect(foundOfMember([named, anchored], 'store', [])).toEqual([named])
  expect(foundOfMember([named, anchored], 'queue', [stuck])).toEqual([anchored])
})
