import fc from 'fast-check'
import {
  apply,
  changeBetween,
  changeOf,
  changesOf,
  madeLater,
  nextRedo,
  nextUndo,
  rebasedOnto,
  takingBack,
  writeJson,
  type Change,
  type DraftEntry,
  type Estate,
} from '../../src/index'
import { sameJson } from '../../src/changes/document'
import { made } from '../changes/made'
import { randomChange } from '../changes/random-change'
import { estateWithPromises } from '../random/promises'
import { random } from '../random/random'
import { estateOfJson } from '../random/read'
import { runs } from '../random/runs'

const json = (estate: Estate): unknown => JSON.parse(writeJson(estate))
const same = (a: Estate, b: Estate): boolean => sameJson(json(a), json(b))
const entry = (number: number, change: Change, undoes: number | null = null): DraftEntry => ({
  number,
  what: `entry ${number}`,
  author: 'Ada',
  undoes,
  change,
})
const stateOf = (base: Estate, log: readonly DraftEntry[]): Estate => made(base, changeOf(log))

/** The log with one more entry that takes another back. */
function takenBack(base: Estate, log: readonly DraftEntry[], number: number): DraftEntry[] {
  const back = takingBack(base, log, number)
  if (!back.ok) throw new Error(JSON.stringify(back))
  return [...log, entry(log.length + 1, back.change, number)]
}

const seeds = fc.integer({ min: 0, max: 1_000_000 })
const law = (name: string, holds: (seed: number) => void): void =>
  test(name, () => fc.assert(fc.property(seeds, holds), { numRuns: runs(20), seed: 16 }))

law('what is between two states makes one of the other', (seed) => {
  const before = estateWithPromises(seed)
  const after = made(before, randomChange(before, random(seed)))
  expect(same(made(before, changeBetween(before, after)), after)).toBe(true)
  expect(changeBetween(before, before)).toEqual([])
})

law('undoing everything leads back to the base, redoing everything to the draft', (seed) => {
  const base = estateWithPromises(seed)
  const r = random(seed)
  let log: DraftEntry[] = []
  for (let number = 1; number <= 3; number++)
    log = [...log, entry(number, randomChange(stateOf(base, log), r))]
  const full = stateOf(base, log)
  for (let next = nextUndo(log); next !== null; next = nextUndo(log))
    log = takenBack(base, log, next)
  expect(same(stateOf(base, log), base)).toBe(true)
  expect(changesOf(log).some(({ stands }) => stands)).toBe(false)
  for (let next = nextRedo(log); next !== null; next = nextRedo(log))
    log = takenBack(base, log, next)
  expect(same(stateOf(base, log), full)).toBe(true)
  expect(changesOf(log).every(({ stands }) => stands)).toBe(true)
  expect(nextRedo(log)).toBeNull()
})

const base = estateOfJson({
  networks: { hall: { ranges: ['10.9.0.0/16'], defaultRouteTable: 'main' } },
  routeTables: {
    main: {
      routes: [
        { to: '192.0.2.0/24', via: 'drop' },
        { to: '0.0.0.0/0', via: 'drop' },
      ],
    },
  },
  subnets: {
    desk: { network: 'hall', ranges: ['10.9.1.0/24'] },
    gate: { network: 'hall', ranges: ['10.9.2.0/24'] },
  },
})
const note = (subnet: string, value: string, op: 'add' | 'replace' = 'add'): Change => [
  { op, path: `/subnets/${subnet}/note`, value },
]

test('an entry in the middle is taken back alone', () => {
  const log = [entry(1, note('desk', 'one')), entry(2, note('gate', 'two'))]
  const after = stateOf(base, takenBack(base, log, 1))
  expect(after.subnets.get('desk')).not.toHaveProperty('note')
  expect(after.subnets.get('gate')).toHaveProperty('note', 'two')
})

test('an entry that was undone and redone is taken back again', () => {
  let log = [entry(1, note('desk', 'one')), entry(2, note('gate', 'two'))]
  for (const number of [2, 3, 1, 2]) log = takenBack(base, log, number)
  expect(stateOf(base, log)).toEqual(base)
})

test('an entry that later ones rest on says which', () => {
  const log = [entry(1, note('desk', 'one')), entry(2, note('desk', 'two', 'replace'))]
  expect(takingBack(base, log, 1)).toEqual({ ok: false, entries: [2] })
})

test('a change made in an earlier version follows what came since, entries of lists too', () => {
  const first: Change = [{ op: 'remove', path: '/routeTables/main/routes/0' }]
  const mine: Change = [
    { op: 'replace', path: '/routeTables/main/routes/1/via', value: 'internet' },
  ]
  const later = madeLater(base, [entry(1, first)], 0, mine)
  expect(later).toMatchObject({
    ok: true,
    change: [{ path: '/routeTables/main/routes/0/via' }],
    conflicts: [],
  })
  const clash = madeLater(base, [entry(1, note('desk', 'theirs'))], 0, note('desk', 'mine'))
  expect(clash).toMatchObject({ ok: true, conflicts: [{ kind: 'both-changed', theirs: 'theirs' }] })
})

describe('a draft on a newer base', () => {
  const log = [
    entry(1, note('desk', 'one')),
    entry(2, [{ op: 'replace', path: '/routeTables/main/routes/1/via', value: 'internet' }]),
    entry(3, note('gate', 'two')),
  ]

  test('keeps its changes, at the places where their entries are now', () => {
    const onto = made(base, [{ op: 'remove', path: '/routeTables/main/routes/0' }])
    const { log: kept, conflicts } = rebasedOnto(base, log, onto, 10)
    expect(conflicts).toEqual([])
    expect(kept.map(({ number }) => number)).toEqual([10, 11, 12])
    expect(stateOf(onto, kept).routeTables.get('main')!.routes).toEqual([
      { to: '0.0.0.0/0', via: 'internet' },
    ])
  })

  test('tells both sides of what both changed, and keeps its own', () => {
    const { log: kept, conflicts } = rebasedOnto(base, log, made(base, note('desk', 'theirs')), 1)
    expect(conflicts).toMatchObject([{ what: 'entry 1', kept: true }])
    expect(conflicts[0]!.reason).toContain('theirs is "theirs", here "one"')
    expect(kept).toHaveLength(3)
  })

  test('sets aside what stands nowhere any more, and leaves out what is there already', () => {
    const onto = made(base, [{ op: 'remove', path: '/subnets/gate' }, ...note('desk', 'one')])
    const { log: kept, conflicts } = rebasedOnto(base, log, onto, 1)
    expect(kept.map(({ what }) => what)).toEqual(['entry 2'])
    expect(conflicts).toMatchObject([{ what: 'entry 3', kept: false }])
  })

  test('sets aside what would leave an invalid estate', () => {
    const add: Change = [
      { op: 'add', path: '/subnets/new', value: { network: 'hall', ranges: ['10.9.3.0/24'] } },
    ]
    const onto = made(base, [
      { op: 'add', path: '/subnets/other', value: { network: 'hall', ranges: ['10.9.3.0/24'] } },
    ])
    const { log: kept, conflicts } = rebasedOnto(base, [entry(1, add)], onto, 1)
    expect(kept).toEqual([])
    expect(conflicts).toMatchObject([{ reason: 'the estate would be invalid after it' }])
  })

  test('tries its changes as they stand where its base is gone', () => {
    const { log: kept, conflicts } = rebasedOnto(null, log, base, 1)
    expect(conflicts).toEqual([])
    expect(apply(base, changeOf(kept)).ok).toBe(true)
    expect(kept).toHaveLength(3)
  })
})
