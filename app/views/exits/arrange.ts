import type { MarkedRow } from '@salt-trail/core'
import type { Outline, SubnetOutline } from '~/api/answers'
import {
  cellOf,
  COLUMNS,
  ORIGINS,
  wayText,
  type Cell,
  type ColumnKey,
  type Direction,
} from './cells'

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
}
export interface SubnetItem {
  readonly kind: 'subnet'
  readonly subnet: SubnetOutline
  /** Its name in its group, which need not repeat that of its network. */
  readonly name: string
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
}

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

/**
 * The rows of the matrix in groups, without those that are not wanted. Groups stand in the order of
 * the estate.
 */
export function arrange(
  outline: Outline,
  rows: readonly MarkedRow[],
  { by, onlyProblems, direction, find }: Arrangement,
): Item[] {
  const rowOf = new Map(rows.map((row) => [row.subnet, row]))
  const groups = new Map<string, SubnetItem[]>(
    by === 'network' && !onlyProblems && find === ''
      ? outline.networks.map(({ id }) => [id, []])
      : [],
  )
  for (const subnet of outline.subnets) {
    const row = rowOf.get(subnet.id)
    if (
      onlyProblems &&
      !(row && Object.keys(direction === 'entering' ? row.entering : row.findings).length > 0)
    )
      continue
    if (find !== '' && !fits(subnet, row, find)) continue
    const name =
      by === 'network' && subnet.id.startsWith(`${subnet.network}-`)
        ? subnet.id.slice(subnet.network.length + 1)
        : subnet.id
    const item: SubnetItem = {
      kind: 'subnet',
      subnet,
      name,
      row: row ?? null,
      cells: row ? cellsOf(row) : null,
    }
    const key = groupOf(subnet, by)
    const group = groups.get(key)
    if (group) group.push(item)
    else groups.set(key, [item])
  }
  const networks = new Map(outline.networks.map((network) => [network.id, network]))
  return [...groups].flatMap(([key, items]): Item[] => {
    const network = by === 'network' ? networks.get(key) : undefined
    const about = network
      ? `${network.behaviour}, ${network.region ?? 'all regions'}`
      : `${items.length} ${items.length === 1 ? 'subnet' : 'subnets'}`
    return [
      {
        kind: 'group',
        id: key,
        title: key === '' ? NONE[by] : key,
        ranges: network?.ranges.join('  ') ?? '',
        about,
      },
      ...items,
    ]
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
    COLUMNS.some(({ key }) => row[key].some((way) => wayText(way).toLowerCase().includes(find)))
  )
}

/** One column as it is shown: a kind of destination, or one of its members where it is open. */
export interface ShownColumn {
  readonly key: ColumnKey
  readonly member: string | null
  readonly title: string
  /** Where its packets go, after a subnet’s name. */
  readonly where: string
  readonly width: number
}

const WIDTHS: Record<ColumnKey, number> = {
  internet: 210,
  services: 180,
  sites: 190,
  otherNetworks: 200,
  sameNetwork: 170,
}
const MEMBER_WIDTH = 170
/** At most this many members of a column are shown; a longer list is narrowed by name. */
export const MOST_MEMBERS = 40
export type OpenColumn = keyof Outline['members']
/** Services open no flows of their own, so nothing enters from them. */
export const canOpen = (
  outline: Outline,
  key: ColumnKey,
  direction: Direction,
): key is OpenColumn =>
  key in outline.members &&
  outline.members[key as OpenColumn].length > 0 &&
  (direction === 'leaving' || key !== 'services')

/** The members of a column whose names contain a text. */
export const membersLike = (outline: Outline, key: OpenColumn, like: string): readonly string[] =>
  outline.members[key].filter((member) => member.toLowerCase().includes(like.trim().toLowerCase()))

/** The columns, those that are open with their members after them. */
export function shownColumns(
  outline: Outline,
  open: readonly string[],
  direction: Direction,
  like = '',
): ShownColumn[] {
  const entering = direction === 'entering'
  return COLUMNS.flatMap(({ key, title, where }): ShownColumn[] => {
    if (entering && key === 'services') return []
    const whole: ShownColumn = {
      key,
      member: null,
      title,
      where: entering ? ORIGINS[key] : where,
      width: WIDTHS[key] + (entering ? 40 : 0),
    }
    if (!open.includes(key) || !canOpen(outline, key, direction)) return [whole]
    const members = membersLike(
      outline,
      key,
      outline.members[key].length > MOST_MEMBERS ? like : '',
    ).slice(0, MOST_MEMBERS)
    return [
      whole,
      ...members.map((member) => ({
        key,
        member,
        title: member,
        where: `${entering ? 'from' : 'to'} ${member}`,
        width: MEMBER_WIDTH,
      })),
    ]
  })
}
