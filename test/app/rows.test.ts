import { differences } from '~/views/exits/compare'
import { cellOf, COLUMNS } from '~/views/exits/cells'
import { placeText, readPlace } from '~/views/exits/place'
import { exitsTable } from '~/views/exits/table'
import type { Item } from '~/views/exits/arrange'
import { way } from './ways'

test('a place of the matrix is read back as it is written', () => {
  for (const place of [
    { subnet: 'front', column: 'internet', member: null },
    { subnet: 'front', column: 'sites', member: 'office' },
  ] as const)
    expect(readPlace(placeText(place))).toEqual(place)
})

test('a subnet alone is a place in the first column, and no text is none', () => {
  expect(readPlace('front')).toEqual({ subnet: 'front', column: 'internet', member: null })
  expect([readPlace(''), readPlace(undefined), readPlace(['a'])]).toEqual([null, null, null])
})

test('of two rows only what differs is told, column by column', () => {
  const [same, other] = [way({}), way({ kind: 'translated', by: 'nats/n', way: ['nats/n'] })]
  const found = differences([
    { key: 'internet', title: 'Internet', a: cellOf([same], []), b: cellOf([same], []) },
    { key: 'sites', title: 'Sites', a: cellOf([same], []), b: cellOf([other], []) },
  ])
  expect(found).toHaveLength(1)
  expect(found[0]).toMatchObject({
    title: 'Sites',
    a: [expect.any(String)],
    b: [expect.any(String)],
  })
  expect(found[0]!.a[0]).toContain('door')
  expect(found[0]!.b[0]).toContain('n')
})

test('rows as a table: one line a subnet, its ways by column, and what is wrong, each once', () => {
  const cells = Object.fromEntries(COLUMNS.map(({ key }) => [key, cellOf([way({})], [])]))
  const finding = { sentence: 'it leaks' }
  const items = [
    { kind: 'group', title: 'shop' },
    {
      kind: 'subnet',
      subnet: {
        id: 'front',
        network: 'shop',
        ranges: ['10.1.1.0/24'],
        zone: null,
        region: 'south',
        role: 'private',
      },
      cells,
      row: { findings: { internet: [finding], sites: [finding] } },
    },
  ] as unknown as Item[]
  const { columns, rows } = exitsTable(items)
  expect(columns).toHaveLength(5 + COLUMNS.length + 1)
  expect(rows).toHaveLength(1)
  expect(rows[0]!.slice(0, 5)).toEqual(['shop', 'front', '10.1.1.0/24', 'south', 'private'])
  expect(rows[0]!.at(-1)).toBe('it leaks')
})
