import type { MapChange, WayKind } from '@salt-trail/core'
import type { WayLine } from '~/views/map/way-lines'

/** How a line is drawn, as attributes of SVG. */
export interface Stroke {
  readonly stroke: string
  readonly 'stroke-width': number
  readonly 'stroke-dasharray': string | undefined
}
const strokeAs = (tone: string, width: number, dash?: string): Stroke => ({
  stroke: `var(--${tone})`,
  'stroke-width': width,
  'stroke-dasharray': dash,
})

/** The tone and the pattern of a way, as everywhere. */
const WAYS: Record<WayKind, Stroke> = {
  translated: strokeAs('translated', 2, '6 4'),
  inspected: strokeAs('inspected', 3),
  direct: strokeAs('direct', 2),
  'private-line': strokeAs('line', 2, '2 3'),
  service: strokeAs('service', 2, '8 3 2 3'),
  local: strokeAs('local', 2),
  lost: strokeAs('faint', 2, '1 4'),
}
const LANES: Record<Exclude<WayLine['lane'], 'out'>, Stroke> = {
  there: strokeAs('ink', 3.5),
  back: strokeAs('focus', 3.5, '8 5'),
  before: strokeAs('ink', 2, '2 4'),
  now: strokeAs('draft', 3.5),
}

/** The line of a way over the map. */
export const strokeOfWay = ({ lane, kind }: Pick<WayLine, 'lane' | 'kind'>): Stroke =>
  lane === 'out' ? WAYS[kind ?? 'local'] : LANES[lane]

/** What joins two marks; dashed where no mark of its own joins them. */
export function strokeOfJoin(hasName: boolean, change: MapChange | undefined): Stroke {
  if (change === 'added') return strokeAs('draft', 2, hasName ? '5 3' : undefined)
  if (change === 'removed') return strokeAs('faint', 1.5, '1 4')
  return strokeAs('faint', 1, hasName ? '5 3' : undefined)
}

/** Before the name of what a draft alters. */
export const CHANGE_SIGNS: Readonly<Record<MapChange, string>> = {
  added: '+ ',
  removed: '− ',
  altered: '~ ',
}
