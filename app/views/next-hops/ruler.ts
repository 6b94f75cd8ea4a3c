import { parseAddress, type HopRangeJson, type WayKind } from '@salt-trail/core'

/** A part of the address space as the ruler shows it. */
export interface Stretch {
  readonly from: number
  readonly to: number
  readonly range: HopRangeJson
}

/** What is in sight of the ruler, as shares of the whole space from 0 to 1. */
export interface Sight {
  readonly from: number
  readonly to: number
}

/** Where an address lies in the space of its family, from 0 to 1. */
export function placeOf(text: string): number {
  const address = parseAddress(text) ?? 0
  return typeof address === 'number' ? address / 2 ** 32 : Number(address >> 64n) / 2 ** 64
}

export const stretchesOf = (ranges: readonly HopRangeJson[], family: 4 | 6): Stretch[] =>
  ranges
    .filter((range) => range.family === family)
    .map((range, index, all) => ({
      from: placeOf(range.from),
      to: index + 1 < all.length ? placeOf(all[index + 1]!.from) : 1,
      range,
    }))

/** Half or twice as much, kept inside the space, round a place. */
export function zoomed(sight: Sight, by: number, round: number): Sight {
  const width = Math.min(1, Math.max(2 ** -40, (sight.to - sight.from) * by))
  const from = Math.min(Math.max(0, round - width / 2), 1 - width)
  return { from, to: from + width }
}

/** What a range is, by the strongest thing on its way. */
export function kindOfRange({
  way,
  cause,
  leavesBy,
}: Pick<HopRangeJson, 'way' | 'cause' | 'leavesBy'>): WayKind {
  if (cause) return 'lost'
  const has = (...sections: string[]): boolean =>
    way.some((ref) => sections.some((section) => ref.startsWith(`${section}/`)))
  if (has('firewalls')) return 'inspected'
  if (has('nats')) return 'translated'
  if (has('endpoints') || way.includes('service-switch')) return 'service'
  if (way.length === 0) return 'local'
  return has('peerings', 'transits', 'sites') || leavesBy === null ? 'private-line' : 'direct'
}
