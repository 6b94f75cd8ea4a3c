import {
  apply,
  complete,
  invert,
  merge,
  readChange,
  readEstate,
  rebase,
  type Estate,
  type Change,
  type Operation,
} from '../../src/index'

const TEXT = `format: salt-trail/1
name: Try
networks:
  n: { ranges: [10.1.0.0/16, 10.2.0.0/16, 10.3.0.0/16] }
routeTables:
  t:
    network: n
    routes: [{ to: 0.0.0.0/0, via: drop }, { to: 10.9.0.0/16, via: local }]
`
const estate = readEstate([{ name: 'try.yaml', text: TEXT }]).estate!

const ranges = (one: Estate): readonly string[] | undefined => one.networks.get('n')?.ranges
function made(change: Change, from = estate): Estate {
  const after = apply(from, change)
  if (!after.ok) throw new Error(after.failure.message)
  return after.estate
}
const failure = (change: Change): string => {
  const after = apply(estate, change)
  return after.ok ? 'made' : `${after.failure.operation} ${after.failure.message}`
}
const add = (path: string, value: unknown): Operation => ({ op: 'add', path, value })
const replace = (path: string, value: unknown): Operation => ({ op: 'replace', path, value })
const remove = (path: string): Operation => ({ op: 'remove', path })

describe('apply', () => {
  test('shares what a change leaves alone', () => {
    const after = made([add('/networks/n/ranges/0', '10.0.0.0/16')])
    expect(ranges(after)).toEqual(['10.0.0.0/16', '10.1.0.0/16', '10.2.0.0/16', '10.3.0.0/16'])
    expect(after.routeTables).toBe(estate.routeTables)
  })
  test.each<[string, Change, string]>([
    ['a path that leads nowhere', [replace('/networks/m/ranges', [])], '0 networks has no "m"'],
    [
      'an entry too far',
      [remove('/networks/n/ranges/7')],
      '0 networks/n/ranges has 3 entries, and no entry 7',
    ],
    [
      'a number with a zero before',
      [remove('/networks/n/ranges/01')],
      '0 networks/n/ranges has 3 entries, and no entry 01',
    ],
    ['inside a text', [add('/name/x', 1)], '0 name is "Try", and has nothing inside'],
    ['no pointer', [remove('networks')], '0 "networks" is no JSON pointer'],
    ['the whole document', [remove('')], '0 the document as a whole'],
    [
      'a test that fails',
      [remove('/networks/n/ranges/0'), { op: 'test', path: '/name', value: 'No' }],
      '1 /name is "Try", not "No"',
    ],
    ['a section there is not', [add('/sites/s', {})], '0 the estate has no "sites"'],
    ['a section of another shape', [add('/sites', 5)], '0 the section "sites" is a map'],
    ['no section', [add('/sties', {})], '0 "sties" is no section'],
    ['another format', [replace('/format', 'x/1')], '0 the format of an estate is'],
  ])('%s is a failure with its reason', (_, change, message) => {
    expect(failure(change)).toContain(message)
  })
  test('an object put over another is a warning', () => {
    expect(apply(estate, [add('/networks/n', { ranges: [] })])).toMatchObject({
      ok: true,
      warnings: ['/networks/n was there already, and is replaced'],
    })
    expect(apply(estate, [add('/networks/m', { ranges: [] })])).toMatchObject({ warnings: [] })
  })
  test('a section that is missing is added by a complete change', () => {
    const change = complete(estate, [add('/sites/s', {}), add('/sites/r', {})])
    expect(change.map(({ path }) => path)).toEqual(['/sites', '/sites/s', '/sites/r'])
    expect([...made(change).sites.keys()]).toEqual(['s', 'r'])
    expect(complete(estate, [add('/networks/m', {})])).toHaveLength(1)
  })
})

test('an entry at the end of a list is taken out again by its number', () => {
  const undone = invert(estate, [add('/networks/n/ranges/-', '10.4.0.0/16')])
  expect(undone).toEqual({ ok: true, change: [remove('/networks/n/ranges/3')] })
  expect(invert(estate, [remove('/networks/m')])).toMatchObject({
    ok: false,
    failure: { operation: 0 },
  })
})

describe('merge', () => {
  test('what is typed at one place is one operation', () => {
    expect(merge([replace('/name', 'A')], [replace('/name', 'AB')])).toEqual([
      replace('/name', 'AB'),
    ])
    expect(merge([add('/networks/m', { ranges: [] })], [add('/networks/m/ranges/-', 'x')])).toEqual(
      [add('/networks/m', { ranges: ['x'] })],
    )
  })
  test('two entries put at one place stay two', () => {
    const twice = [add('/networks/n/ranges/0', 'a'), add('/networks/n/ranges/0', 'b')]
    expect(merge(twice.slice(0, 1), twice.slice(1))).toEqual(twice)
  })
  test('what goes again may have stood over something', () => {
    const both = [add('/networks/n', {}), remove('/networks/n')]
    expect(merge(both.slice(0, 1), both.slice(1))).toEqual(both)
  })
})

describe('rebase', () => {
  const rebased = (mine: Change, theirs: Change) => {
    const after = rebase(estate, mine, theirs)
    if (!after.ok) throw new Error(after.failure.message)
    return after
  }
  test('an entry is known by what it was in the base, not by its number', () => {
    const after = rebased(
      [replace('/networks/n/ranges/2', 'mine')],
      [remove('/networks/n/ranges/0')],
    )
    expect(after).toMatchObject({
      change: [replace('/networks/n/ranges/1', 'mine')],
      conflicts: [],
    })
  })
  test('of two inserts at one place theirs comes first', () => {
    const theirs = [add('/networks/n/ranges/1', 'theirs')]
    const { change } = rebased([add('/networks/n/ranges/1', 'mine')], theirs)
    expect(ranges(made(change, made(theirs)))).toEqual([
      '10.1.0.0/16',
      'theirs',
      'mine',
      '10.2.0.0/16',
      '10.3.0.0/16',
    ])
  })
  test('an entry at the end stays at the end', () => {
    const theirs = [add('/networks/n/ranges/-', 'theirs')]
    const { change } = rebased([add('/networks/n/ranges/-', 'mine')], theirs)
    expect(ranges(made(change, made(theirs)))!.slice(-2)).toEqual(['theirs', 'mine'])
  })
  test('what mine put itself keeps its place among what theirs put', () => {
    const mine = [
      add('/networks/n/ranges/0', 'a'),
      add('/networks/n/ranges/1', 'b'),
      replace('/networks/n/ranges/0', 'A'),
    ]
    const theirs = [remove('/networks/n/ranges/0')]
    const { change } = rebased(mine, theirs)
    expect(ranges(made(change, made(theirs)))).toEqual(['A', 'b', '10.2.0.0/16', '10.3.0.0/16'])
  })
  test('an entry that is gone is a conflict, and one that both take out is none', () => {
    const theirs = [remove('/routeTables/t/routes/1')]
    const mine = [replace('/routeTables/t/routes/1/via', 'drop'), replace('/name', 'Other')]
    expect(rebased(mine, theirs)).toMatchObject({
      change: [replace('/name', 'Other')],
      conflicts: [{ operation: mine[0], kind: 'gone' }],
    })
    expect(rebased(theirs, theirs)).toMatchObject({ change: [], conflicts: [] })
    expect(rebased([add('/routeTables/t/note', 'x')], [remove('/routeTables/t')])).toMatchObject({
      conflicts: [{ kind: 'gone' }],
    })
  })
  test('what both write is told with what the other wrote, and mine comes last', () => {
    expect(rebased([replace('/name', 'Mine')], [replace('/name', 'Theirs')])).toMatchObject({
      change: [replace('/name', 'Mine')],
      conflicts: [{ kind: 'both-changed', theirs: 'Theirs' }],
    })
    expect(rebased([replace('/name', 'Same')], [replace('/name', 'Same')])).toMatchObject({
      change: [],
      conflicts: [],
    })
  })
  test('a test is kept', () => {
    const test = { op: 'test', path: '/networks/n/ranges/1', value: '10.2.0.0/16' } as const
    expect(rebased([test], [remove('/networks/n/ranges/0')]).change).toEqual([
      { ...test, path: '/networks/n/ranges/0' },
    ])
  })
  test('a change that cannot be made in the base is a failure', () => {
    expect(rebase(estate, [remove('/networks/m')], [])).toMatchObject({ ok: false })
    expect(rebase(estate, [], [remove('/networks/m')])).toMatchObject({ ok: false })
  })
})

describe('a patch that is read', () => {
  test('move and copy are taken apart, and - becomes a number', () => {
    const patch = [
      { op: 'copy', from: '/networks/n', path: '/networks/m' },
      { op: 'move', from: '/routeTables/t/routes/0', path: '/routeTables/t/routes/-' },
    ]
    expect(readChange(estate, patch)).toEqual({
      ok: true,
      change: [
        add('/networks/m', { ranges: ['10.1.0.0/16', '10.2.0.0/16', '10.3.0.0/16'] }),
        remove('/routeTables/t/routes/0'),
        add('/routeTables/t/routes/1', { to: '0.0.0.0/0', via: 'drop' }),
      ],
    })
  })
  test.each<[unknown, string]>([
    ['x', 'a patch is a list'],
    [[{ op: 'put', path: '/name' }], '"op"'],
    [[{ op: 'add', path: '/name' }], '"value"'],
    [[{ op: 'move', from: '/networks', path: '/networks/n' }], 'into itself'],
    [[{ op: 'copy', from: '/sites/s', path: '/name' }], 'there is nothing at /sites/s'],
    [[{ op: 'remove', path: '/sites' }], 'the estate has no "sites"'],
  ])('%j is refused with the reason', (patch, message) => {
    expect(readChange(estate, patch)).toMatchObject({
      ok: false,
      failure: { operation: 0, message: expect.stringContaining(message) as string },
    })
  })
})
