import { compareEstates, readEstate, type Estate } from '../../src/index'

const estate = (text: string): Estate =>
  readEstate([{ name: 'x', text: `format: salt-trail/1\nname: x\n${text}` }]).estate!

test('objects added, removed and changed, with the keys that differ', () => {
  const before = estate(
    'sites:\n  a: { title: A, ranges: [10.0.0.0/8] }\n  b: {}\nprices: { currency: EUR }\n',
  )
  const after = estate(
    'sites:\n  c: {}\n  a: { ranges: [10.0.0.0/8, 172.16.0.0/12], title: A }\nquotas: { routesPerTable: 5 }\n',
  )
  expect(compareEstates(before, after)).toEqual([
    { object: 'sites/a', kind: 'changed', keys: ['ranges'] },
    { object: 'sites/b', kind: 'removed', keys: [] },
    { object: 'sites/c', kind: 'added', keys: [] },
    { object: 'prices', kind: 'removed', keys: ['currency'] },
    { object: 'quotas', kind: 'added', keys: ['routesPerTable'] },
  ])
})

test('the order of objects and keys is no difference', () => {
  expect(
    compareEstates(
      estate('sites:\n  a: { title: A, note: N }\n  b: {}\n'),
      estate('sites:\n  b: {}\n  a: { note: N, title: A }\n'),
    ),
  ).toEqual([])
})

test('estate rules are compared by their order', () => {
  const before = estate(
    'estateRules:\n  - { order: 1, direction: in, action: deny }\n  - { order: 2, direction: in, action: allow }\n',
  )
  const after = estate('estateRules:\n  - { order: 2, direction: in, action: defer }\n')
  expect(compareEstates(before, after)).toEqual([
    { object: 'estateRules/1', kind: 'removed', keys: [] },
    { object: 'estateRules/2', kind: 'changed', keys: ['action'] },
  ])
})
