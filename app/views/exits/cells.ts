import { fateOf } from '~/help/fates'
import type {
  CellFinding,
  ChangedRow,
  ExitRow,
  ExitWay,
  FindingFamily,
  WayKind,
} from '@salt-trail/core'

/**
 * What a cell of the matrix shows: its leading way in a word or two, how many others, and the most
 * severe mark.
 */
export interface Cell {
  readonly kind: WayKind | null
  readonly text: string
  /** The next worst way that says something else; empty where there is none. */
  readonly next: string
  /** How many further ways there are. */
  readonly others: number
  readonly mark: FindingFamily | null
  readonly ways: readonly ExitWay[]
  readonly found: readonly CellFinding[]
}

export const nameOf = (ref: string): string => ref.slice(ref.indexOf('/') + 1)

/** The families of findings, the gravest first. */
export const GRAVITY: readonly FindingFamily[] = ['leak', 'hole', 'weak']

export function cellOf(ways: readonly ExitWay[], found: readonly CellFinding[] = []): Cell {
  const ordered = worstFirst(ways)
  const [leading] = ordered
  const [, next = '', ...others] = new Set(ordered.map((way) => wayText(way)))
  const mark = GRAVITY.find((family) => found.some((one) => one.family === family)) ?? null
  return {
    kind: leading?.kind ?? null,
    text: leading ? wayText(leading) : '–',
    next,
    others: others.length,
    mark,
    ways,
    found,
  }
}

/**
 * How bad it is that traffic goes a way: lost by a fault, straight to the outside, any other, and
 * what a route drops on purpose.
 */
function badness({ cause, kind }: ExitWay): number {
  if (cause !== null) return cause.code === 'drop-route' ? 0 : 3
  return kind === 'direct' ? 2 : 1
}

/** The worst of several ways first; among equals the rest of IPv4 before parts and IPv6. */
function worstFirst(ways: readonly ExitWay[]): ExitWay[] {
  const isRest = (way: ExitWay): boolean => way.ranges === null && way.family === 4
  return [...ways].sort((a, b) => badness(b) - badness(a) || Number(isRest(b)) - Number(isRest(a)))
}

/** What a cell says, the worst first. */
export const saidBy = ({ text, next }: Cell): string => (next === '' ? text : `${text}, ${next}`)

/**
 * Of what is wrong in a column, what a cell of one of its members carries: it names the member, or
 * a way of the cell is lost at what it stands at.
 */
export const foundOfMember = (
  found: readonly CellFinding[],
  member: string,
  ways: readonly ExitWay[],
): readonly CellFinding[] =>
  found.filter(
    (one) =>
      one.members.includes(member) ||
      ways.some(({ cause }) => cause !== null && cause.object === one.anchor),
  )

/** A way in one or two words: by what the traffic leaves first, or how it is lost. */
export function wayText(way: ExitWay): string {
  if (way.cause) return fateOf(way.cause.code)
  if (way.kind === 'local') return 'local'
  if (way.by === 'internet') return 'built-in door'
  return way.by === null ? 'direct' : nameOf(way.by)
}

export const COLUMNS = [
  { key: 'internet', title: 'Internet', where: 'to the internet' },
  { key: 'services', title: 'Services', where: 'to the provider’s services' },
  { key: 'sites', title: 'Sites', where: 'to the sites' },
  { key: 'otherNetworks', title: 'Other networks', where: 'to other networks' },
  { key: 'sameNetwork', title: 'Same network', where: 'within its network' },
] as const
export type ColumnKey = (typeof COLUMNS)[number]['key']

/** What the matrix shows: the traffic that leaves each subnet, or that enters it. */
export type Direction = 'leaving' | 'entering'

/** Where packets of a column come from, after a subnet’s name. */
export const ORIGINS: Record<ColumnKey, string> = {
  internet: 'from the internet',
  services: 'from the provider’s services',
  sites: 'from the sites',
  otherNetworks: 'from other networks',
  sameNetwork: 'from its own network',
}

/** How many ways a column knows in all rows, for its heading. */
export function waysInColumn(rows: readonly ExitRow[], key: ColumnKey): number {
  const texts = new Set<string>()
  for (const row of rows)
    for (const way of row[key]) if (way.cause === null) texts.add(wayText(way))
  return texts.size
}

/** The columns of a row whose ways differ between two states. */
export const differingColumns = ({ before, now }: Pick<ChangedRow, 'before' | 'now'>) =>
  COLUMNS.filter(({ key }) => JSON.stringify(before?.[key]) !== JSON.stringify(now?.[key]))

/** What a cell says in one of them, where the subnet may not be. */
export const cellTextOf = (row: ChangedRow['before'], key: ColumnKey): string =>
  row === null ? 'not there' : saidBy(cellOf(row[key]))
