import type { TableText } from '~/tables/table-text'
import type { Item } from './arrange'
import { COLUMNS } from './cells'
import { passedText, rangesText } from './way-words'

/**
 * The rows of the matrix as a table: by which ways each subnet's traffic leaves for each kind of
 * place, and what is wrong.
 */
export function exitsTable(items: readonly Item[]): TableText {
  const rows = items.flatMap((item) => {
    if (item.kind !== 'subnet') return []
    const { subnet, cells, row } = item
    const ways = COLUMNS.map(({ key }) =>
      (cells?.[key].ways ?? [])
        .map((way) => `${rangesText(way, cells![key].ways.length === 1, key)}: ${passedText(way)}`)
        .join('\n'),
    )
    const wrong = COLUMNS.flatMap(
      ({ key }) => row?.findings[key]?.map(({ sentence }) => sentence) ?? [],
    )
    return [
      [
        subnet.network,
        subnet.id,
        subnet.ranges.join(' '),
        subnet.zone ?? subnet.region ?? '',
        subnet.role ?? '',
        ...ways,
        [...new Set(wrong)].join('\n'),
      ],
    ]
  })
  return {
    columns: [
      'network',
      'subnet',
      'ranges',
      'zone',
      'role',
      ...COLUMNS.map(({ title }) => title),
      'wrong',
    ],
    rows,
  }
}
