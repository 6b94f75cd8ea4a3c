import type { ExitWay, MarkedRow } from '@salt-trail/core'
import type { Outline, SubnetOutline } from '~/api/answers'
import { cellOf, COLUMNS, wayText, type Cell, type ColumnKey, type Direction } from './cells'
import { WAY_WORDS } from './way-words'
import { facesOf, foldNetworks, foldSubnets, likenessIn, type Alike, type Unfolded } from './fold'

/** What the rows of the matrix are grouped by. */
export const GROUPINGS = ['network', 'zone', 'role', 'table'] as const
export type Grouping = (typeof GROUPINGS)[number]

export interface GroupItem {
  readonly kind: 'group'
  readonly id: string
  readonly title: string
  /** Prefixes of a network. */
  readonly ranges: string
  readonly about: string
  /** How many networks it stands for; where they are several, its rows are those of the first. */
  readonly stands: number
  /** By what it is opened or folded, where it has likes. */
  readonly fold: string | null
}
export interface SubnetItem {
  readonly kind: 'subnet'
  readonly subnet: SubnetOutline
  /** Its name in its group, which need not repeat that of its network. */
  readonly name: string
  /** Every subnet that the row stands for, itself first. */
  readonly all: readonly string[]
  /** What tells it from the many in its network that it is otherwise like. */
  readonly unlike: readonly string[]
  readonly fold: string | null
  readonly row: MarkedRow | null
  readonly cells: { readonly [C in ColumnKey]: Cell } | null
}
export type Item = GroupItem | SubnetItem

export interface Arrangement {
  readonly by: Grouping
  readonly onlyProblems: boolean
  readonly direction: Direction
  /** What a row must have in its names or its ways, in small letters. */
  readonly find: string
  /** Where rows that are alike are one: those that are not. Null where every row is shown. */
  readonly folded: Unfolded | null
}

/** Rows that are alike are folded where there are more than so many. */
export const MOST_UNFOLDED = 60

const groupOf = (subnet: SubnetOutline, by: Grouping): string => {
  if (by === 'network') return subnet.network
  if (by === 'zone') return subnet.zone ?? subnet.region ?? ''
  return (by === 'role' ? subnet.role : subnet.table) ?? ''
}
const NONE: Record<Grouping, string> = {
  network: 'no network',
  zone: 'all zones',
  role: 'no role',
  table: 'no table',
}

/** A group of rows: its key, its subnets, and the networks it stands for. */
interface Group {
  readonly key: string
  readonly subnets: readonly Alike[]
  readonly networks: readonly string[]
  readonly fold: string | null
  readonly unlike: readonly string[]
}

/**
 * The rows of the matrix in groups, without those that are not wanted. Groups stand in the order of
 * the estate. Where rows fold, networks that are alike are one group, and its rows are the first
 * one’s; and so are subnets that are alike in a long group.
 */
export function arrange(
  outline: Outline,
  rows: readonly MarkedRow[],
  arrangement: Arrangement,
): Item[] {
  const { by } = arrangement
  const rowOf = new Map(rows.map((row) => [row.subnet, row]))
  const networks = new Map(outline.networks.map((network) => [network.id, network]))
  return foldGroups(outline, rowOf, groupsOf(outline, rowOf, arrangement), arrangement).flatMap(
    ({ key, subnets, networks: of, fold, unlike }): Item[] => {
      const network = by === 'network' ? networks.get(key) : undefined
      const each = count(subnets.length, 'subnet', 'subnets')
      const place = network ? `${network.behaviour}, ${network.region ?? 'all regions'}` : each
      const likes = of.length > 1 ? ` and ${of.length - 1} like it` : ''
      return [
        {
          kind: 'group',
          id: key,
          title: `${key === '' ? NONE[by] : key}${likes}`,
          ranges: of.length > 1 ? '' : (network?.ranges.join('  ') ?? ''),
          about: [
            of.length > 1 ? `${each} each, ${place}` : place,
            ...(unlike.length > 0 ? [`unlike most: ${unlike.join('; ')}`] : []),
          ].join('; '),
          stands: of.length,
          fold,
        },
        ...subnets.map((alike) => itemOf(outline, alike, by, rowOf)),
      ]
    },
  )
}

const count = (n: number, one: string, many: string): string => `${n} ${n === 1 ? one : many}`

function itemOf(
  { unlike }: Outline,
  { subnets, fold }: Alike,
  by: Grouping,
  rowOf: ReadonlyMap<string, MarkedRow>,
): SubnetItem {
  const [subnet] = subnets as [SubnetOutline]
  const row = rowOf.get(subnet.id) ?? null
  const isNamedAfter = by === 'network' && subnet.id.startsWith(`${subnet.network}-`)
  return {
    kind: 'subnet',
    subnet,
    name: isNamedAfter ? subnet.id.slice(subnet.network.length + 1) : subnet.id,
    all: subnets.map(({ id }) => id),
    unlike: unlike?.subnets[subnet.like] ?? [],
    fold,
    row,
    cells: row ? cellsOf(row) : null,
  }
}

/** The wanted subnets by their group, in the order of the estate. */
function groupsOf(
  outline: Outline,
  rowOf: ReadonlyMap<string, MarkedRow>,
  { by, onlyProblems, direction, find }: Arrangement,
): Map<string, SubnetOutline[]> {
  const groups = new Map<string, SubnetOutline[]>(
    by === 'network' && !onlyProblems && find === ''
      ? outline.networks.map(({ id }) => [id, []])
      : [],
  )
  for (const subnet of outline.subnets) {
    const row = rowOf.get(subnet.id)
    const found = direction === 'entering' ? row?.entering : row?.findings
    if (onlyProblems && Object.keys(found ?? {}).length === 0) continue
    if (find !== '' && !fits(subnet, row, find)) continue
    const key = groupOf(subnet, by)
    const group = groups.get(key)
    if (group) group.push(subnet)
    else groups.set(key, [subnet])
  }
  return groups
}

function foldGroups(
  outline: Outline,
  rowOf: ReadonlyMap<string, MarkedRow>,
  groups: ReadonlyMap<string, readonly SubnetOutline[]>,
  { by, direction, folded }: Arrangement,
): Group[] {
  const face = facesOf(rowOf, direction)
  const likeIn = likenessIn(outline, by === 'network')
  const rowsOf = (key: string): readonly SubnetOutline[] => groups.get(key) ?? []
  const foldedRows = (key: string): readonly Alike[] =>
    folded
      ? foldSubnets(rowsOf(key), likeIn, face, folded)
      : rowsOf(key).map((one) => ({ subnets: [one], fold: null }))
  if (by !== 'network' || !folded)
    return [...groups.keys()].map((key) => ({
      key,
      subnets: foldedRows(key),
      networks: by === 'network' ? [key] : [],
      fold: null,
      unlike: [],
    }))
  const shown = { ...outline, networks: outline.networks.filter(({ id }) => groups.has(id)) }
  return foldNetworks(shown, rowsOf, face, folded).map(({ networks, fold, unlike }) => {
    const ids = networks.map(({ id }) => id)
    const [first] = ids as [string]
    const together = rowsOf(first).map((_, at): Alike => ({
      subnets: ids.map((id) => rowsOf(id)[at]!),
      fold,
    }))
    const subnets = ids.length > 1 ? together : foldedRows(first)
    return { key: first, subnets, networks: ids, fold, unlike }
  })
}

/** Cells are made when a row is first looked at: an estate may have very many. */
function cellsOf(row: MarkedRow): SubnetItem['cells'] {
  const made: Partial<Record<ColumnKey, Cell>> = {}
  const cell = (key: ColumnKey): Cell => (made[key] ??= cellOf(row[key], row.findings[key]))
  return {
    get internet() {
      return cell('internet')
    },
    get services() {
      return cell('services')
    },
    get sites() {
      return cell('sites')
    },
    get otherNetworks() {
      return cell('otherNetworks')
    },
    get sameNetwork() {
      return cell('sameNetwork')
    },
  }
}

function fits(subnet: SubnetOutline, row: MarkedRow | undefined, find: string): boolean {
  const names = `${subnet.id} ${subnet.title ?? ''} ${subnet.network} ${subnet.zone ?? ''} ${subnet.role ?? ''} ${subnet.table ?? ''} ${subnet.ranges.join(' ')}`
  if (names.toLowerCase().includes(find)) return true
  return (
    row !== undefined &&
    COLUMNS.some(({ key }) => row[key].some((way) => saysOf(way).includes(find)))
  )
}

/** What a way can be found by: what its cell says, and the kind of way it is. */
const saysOf = (way: ExitWay): string => `${wayText(way)} ${WAY_WORDS[way.kind]}`.toLowerCase()
