import type { Point } from '~/views/map/layout'

/** Shorter parts have no room for a name. */
const LEAST = 60

/** The middle of the longest upright part of a line; null where none has room for a name. */
export function longestUpright(points: readonly Point[]): Point | null {
  let longest: { readonly length: number; readonly middle: Point } | null = null
  for (const [at, to] of points.entries()) {
    const from = points[at - 1]
    if (from === undefined || Math.abs(from.x - to.x) > 0.5) continue
    const length = Math.abs(from.y - to.y)
    if (length >= LEAST && length > (longest?.length ?? 0))
      longest = { length, middle: { x: to.x, y: (from.y + to.y) / 2 } }
  }
  return longest?.middle ?? null
}
