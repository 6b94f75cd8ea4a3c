import type { MarkedRow } from '@salt-trail/core'
import { arrange, type Arrangement, type Item } from '~/views/exits/arrange'
import type { Outline, SubnetOutline } from '~/api/answers'
import { way } from './ways'

/** Networks of two subnets; those of one number are alike. */
const outlineOf = (likes: Readonly<Record<string, number>>, unlike = {}): Outline =>
  ({
    networks: Object.entries(likes).map(([id, like]) => ({
      id,
      title: null,
      ranges: ['10.0.0.0/16'],
      behaviour: 'table-routed',
      region: 'north',
      like,
    })),
    subnets: Object.keys(likes).flatMap((network) =>
      ['a', 'b'].map((at) => subnetOf(`${network}-${at}`, network, -1)),
    ),
    unlike: { networks: unlike, subnets: {} },
  }) as unknown as Outline

const subnetOf = (id: string, network: string, like: number): SubnetOutline => ({
  id,
  title: null,
  network,
  ranges: ['10.0.0.0/24'],
  zone: 'north-1',
  region: 'north',
  role: null,
  table: null,
  ownTable: false,
  like,
})

const rowOf = (subnet: string, findings: MarkedRow['findings'] = {}): MarkedRow => ({
  subnet,
  internet: [way({ kind: 'translated', by: `nats/${subnet}` })],
  services: [],
  sites: [],
  otherNetworks: [],
  sameNetwork: [],
  findings,
  entering: {},
  zone: null,
})
const leak = {
  fingerprint: 'f',
  family: 'leak',
  sentence: 's',
  anchor: 'subnets/x',
  members: [],
  question: null,
} as const

const folded = { opened: new Set<string>(), apart: new Set<string>() }
const plain: Arrangement = {
  by: 'network',
  onlyProblems: false,
  direction: 'leaving',
  find: '',
  folded,
}
const texts = (items: readonly Item[]): string[] =>
  items.map((item) =>
    item.kind === 'group'
      ? `# ${item.title}${item.stands > 1 ? ` (${item.stands})` : ''}`
      : `${item.name}${item.all.length > 1 ? ` x${item.all.length}` : ''}`,
  )

const likes = { 'tide-1': 0, 'tide-2': 0, 'odd-1': 1, 'tide-3': 0 }
const outline = outlineOf(likes, { 1: ['no route to 10.0.0.0/8 over transit core'] })
const rows = outline.subnets.map(({ id }) => rowOf(id))

test('networks that are alike are one group, with the rows of the first for all', () => {
  const items = arrange(outline, rows, plain)
  expect(texts(items)).toEqual(
    ['# tide-1 and 2 like it (3)', 'a x3', 'b x3', '# odd-1', 'odd-1-a', 'odd-1-b'].map((one) =>
      one.replace('odd-1-', ''),
    ),
  )
  const [group, first, , odd] = items
  expect(group).toMatchObject({ about: expect.stringContaining('2 subnets each') })
  expect(first).toMatchObject({ all: ['tide-1-a', 'tide-2-a', 'tide-3-a'] })
  expect(odd).toMatchObject({
    about: expect.stringContaining('unlike most: no route to 10.0.0.0/8'),
  })
})

test('a network whose rows show something else stands alone, however alike it is', () => {
  const marked = rows.map((row) =>
    row.subnet === 'tide-2-b' ? rowOf(row.subnet, { internet: [leak] }) : row,
  )
  expect(texts(arrange(outline, marked, plain)).filter((one) => one.startsWith('#'))).toEqual([
    '# tide-1 and 1 like it (2)',
    '# tide-2',
    '# odd-1',
  ])
})

test('what is opened, or sought, is shown one by one', () => {
  const opened = { ...folded, opened: new Set(['tide-1']) }
  expect(
    texts(arrange(outline, rows, { ...plain, folded: opened })).filter((one) =>
      one.startsWith('#'),
    ),
  ).toEqual(['# tide-1', '# tide-2', '# tide-3', '# odd-1'])
  const apart = { ...folded, apart: new Set(['tide-2']) }
  expect(
    texts(arrange(outline, rows, { ...plain, folded: apart })).filter((one) => one.startsWith('#')),
  ).toEqual(['# tide-1 and 1 like it (2)', '# tide-2', '# odd-1'])
  expect(texts(arrange(outline, rows, { ...plain, folded: null }))).toHaveLength(12)
})

test('in a long group subnets that are alike are one row; in a short one each has its own', () => {
  const long = outlineOf({ net: 0 })
  const subnets = Array.from({ length: 20 }, (_, at) =>
    subnetOf(`net-${at}`, 'net', at === 7 ? 2 : 1),
  )
  const whole = { ...long, subnets } as Outline
  const all = subnets.map(({ id }) => rowOf(id))
  expect(texts(arrange(whole, all, plain))).toEqual(['# net', '0 x19', '7'])
  const few = { ...whole, subnets: subnets.slice(0, 9) }
  expect(texts(arrange(few, all, plain))).toHaveLength(10)
})

test('in groups of other kinds rows are alike where their networks are and they have one place there', () => {
  const many = outlineOf(Object.fromEntries(Array.from({ length: 10 }, (_, at) => [`n-${at}`, 0])))
  const all = many.subnets.map(({ id }) => rowOf(id))
  expect(texts(arrange(many, all, { ...plain, by: 'zone' }))).toEqual([
    '# north-1',
    'n-0-a x10',
    'n-0-b x10',
  ])
})
