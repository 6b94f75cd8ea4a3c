import type { Point } from '~/views/map/layout'

/** Shorter parts have no room for a name. */
const LEAST = 60

/** An upright part of a line. */
export interface Upright {
  readonly x: number
  readonly top: number
  readonly height: number
}

/** The longest upright part of a line; null where none has room for a name. */
export function longestUpright(points: readonly Point[]): Upright | null {
  let longest: Upright | null = null
  for (const [at, to] of points.entries()) {
    const from = points[at - 1]
    if (from === undefined || Math.abs(from.x - to.x) > 0.5) continue
    const height = Math.abs(from.y - to.y)
    if (height >= LEAST && height > (longest?.height ?? 0))
      longest = { x: to.x, top: Math.min(from.y, to.y), height }
  }
  return longest
}
