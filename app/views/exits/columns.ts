import type { Outline } from '~/api/answers'
import { COLUMNS, ORIGINS, type ColumnKey, type Direction } from './cells'

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
