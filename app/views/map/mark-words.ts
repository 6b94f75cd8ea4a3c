import { nameOf, type PlacedNode } from './layout'

type Mark = PlacedNode['node']

/**
 * What a screen reader says of a mark on the map: what is written on it, then what it is joined to.
 */
export function spokenText(
  { name, kind, about, stands }: Mark,
  hasRanges: boolean,
  joinedTo: readonly string[],
): string {
  const written = hasRanges ? `${rangesText(about)}, ${kind}` : aboutOf({ kind, about, stands })
  const all = hasRanges && about.includes(', ') ? `, ${about}` : ''
  const joined = joinedTo.length > 0 ? `; joined to ${joinedTo.map(nameOf).join(', ')}` : ''
  return `${name} ${written}${all}${joined}`
}

/** The first of a network's ranges, and how many more there are. */
export function rangesText(about: string): string {
  const [first = '', ...more] = about.split(', ')
  return more.length > 0 ? `${first} +${more.length}` : first
}

/** The second line of a mark: what it is. */
export function aboutOf({ kind, about, stands }: Pick<Mark, 'kind' | 'about' | 'stands'>): string {
  if (kind === 'internet') return 'outside'
  if (kind === 'networks') return about
  if (stands.length > 0 && kind !== 'network') return `${about}, folded`
  return kind === 'network' ? about : `${kind} ${about}`
}

/** Units of the drawing that a letter takes at the size of a mark's text. */
const LETTER = 6.4

/** The text of a mark, cut where it would not fit into a width. */
export function fitted(text: string, width: number): string {
  const most = Math.floor(width / LETTER)
  return text.length > most ? `${text.slice(0, most - 1)}…` : text
}
