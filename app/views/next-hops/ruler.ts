import { parseAddress, type HopRangeJson, type WayKind } from '@salt-trail/core'

/** A part of the address space as the ruler shows it, from one place on it to another. */
export interface Stretch {
  readonly from: number
  readonly to: number
  readonly range: HopRangeJson
}

/** What is in sight of the ruler, as places on it from 0 to 1. */
export interface Sight {
  readonly from: number
  readonly to: number
}

/** Where an address lies in the space of its family, from 0 to 1. */
export function placeOf(text: string): number {
  const address = parseAddress(text) ?? 0
  return typeof address === 'number' ? address / 2 ** 32 : Number(address >> 64n) / 2 ** 64
}

/**
 * How the space is laid out along the ruler: what lies between two points of `shares` has the room
 * between the same two of `places`. Both rise from 0 to 1.
 */
export interface Scale {
  readonly shares: readonly number[]
  readonly places: readonly number[]
}

const BITS = { 4: 32, 6: 64 } as const

/**
 * Gives each range the room of the number of its digits, so to speak: of the logarithm of its size.
 * So a subnet is seen beside the whole internet. Several lists of ranges share one scale, so that
 * rulers under each other are aligned. Sorts the ranges.
 */
export function scaleOf(lists: readonly (readonly HopRangeJson[])[], family: 4 | 6): Scale {
  const begins = lists.flatMap((ranges) =>
    ranges.filter((range) => range.family === family).map(({ from }) => placeOf(from)),
  )
  const shares = [...new Set([0, ...begins, 1])].sort((a, b) => a - b)
  const rooms = shares
    .slice(1)
    .map((share, index) => 1 + Math.max(0, Math.log2((share - shares[index]!) * 2 ** BITS[family])))
  const all = rooms.reduce((sum, room) => sum + room, 0)
  const places = [0]
  for (const room of rooms) places.push(places.at(-1)! + room / all)
  places[places.length - 1] = 1
  return { shares, places }
}

/** A number between points of one list, as it lies between the same points of another. */
function between(value: number, from: readonly number[], to: readonly number[]): number {
  const next = from.findIndex((point) => point > value)
  if (next < 0) return 1
  if (next === 0) return 0
  const [low, high] = [from[next - 1]!, from[next]!]
  const [lowTo, highTo] = [to[next - 1]!, to[next]!]
  return lowTo + ((value - low) / (high - low)) * (highTo - lowTo)
}
export const placeOn = ({ shares, places }: Scale, share: number): number =>
  between(share, shares, places)
export const shareAt = ({ shares, places }: Scale, place: number): number =>
  between(place, places, shares)

/** The ranges of a family along a ruler, without gaps. */
export const stretchesOf = (
  ranges: readonly HopRangeJson[],
  family: 4 | 6,
  scale: Scale = scaleOf([ranges], family),
): Stretch[] =>
  ranges
    .filter((range) => range.family === family)
    .map((range, index, all) => ({
      from: placeOn(scale, placeOf(range.from)),
      to: index + 1 < all.length ? placeOn(scale, placeOf(all[index + 1]!.from)) : 1,
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
