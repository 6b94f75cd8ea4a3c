import type { Outline } from '~/api/answers'
import { COLUMNS, ORIGINS, type ColumnKey, type Direction } from './cells'

/** One column as it is shown: a kind of destination, or one of its members where it is open. */
export interface ShownColumn {
  readonly key: ColumnKey
  readonly member: string | null
  readonly title: string
  /** Where its packets go, after a subnet’s name. */
  readonly where: string
  /** In pixels. */
  readonly width: number
}

const isBare = (outline: Outline, key: ColumnKey): boolean =>
  key in outline.members && outline.members[key as OpenColumn].length === 0

const WIDTHS: Record<ColumnKey, number> = {
  internet: 210,
  services: 180,
  sites: 190,
  otherNetworks: 200,
  sameNetwork: 170,
}
const MEMBER_WIDTH = 170
/** Of a column in which no row can have anything, since the estate has no such destination. */
const BARE_WIDTH = 124
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
      width: isBare(outline, key) ? BARE_WIDTH : WIDTHS[key] + (entering ? 40 : 0),
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

/** Columns that fill so much room, where there is more than they need; bare ones stay narrow. */
export function spreadOver(columns: readonly ShownColumn[], room: number): readonly ShownColumn[] {
  const needed = columns.reduce((sum, { width }) => sum + width, 0)
  const growing = columns.reduce((sum, { width }) => sum + (width > BARE_WIDTH ? width : 0), 0)
  if (room <= needed || growing === 0) return columns
  const by = 1 + (room - needed) / growing
  return columns.map((column) =>
    column.width > BARE_WIDTH ? { ...column, width: Math.floor(column.width * by) } : column,
  )
}
