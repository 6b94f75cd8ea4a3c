import { addressOf } from '../address/prefix'
import { rangeText, type Range } from '../address/ranges'
import type { HopRangeJson, HopsJson } from '../hops/json'
import type { Model } from '../model/model'
import { byOwner, ownerText, type SpaceOwner } from './named-space'

/** What a kind of host's packets to one owner's space meet, where they all meet the same. */
export interface Destination {
  readonly owner: SpaceOwner
  /** The owner in words. */
  readonly said: string
  readonly family: 4 | 6
  /** In ascending order: a prefix where a range is one, else `first-last`. */
  readonly ranges: readonly string[]
  /** Places in the list of ranges of the kind of host: those that it lies in. */
  readonly places: readonly number[]
}

/** The effective next hops of a subnet, by range and by whose space the destinations are. */
export interface HopsByOwner extends HopsJson {
  readonly kinds: readonly (HopsJson['kinds'][number] & {
    readonly destinations: readonly Destination[]
  })[]
}

/**
 * Adds to the next hops of a subnet the same by owner: the internet first, then services, sites,
 * parties and networks, and what nobody has last. Ranges of one owner and family that have the same
 * outcome are one entry. Costs a step for each range and owner in it.
 */
export function hopsByOwner(model: Model, hops: HopsJson): HopsByOwner {
  return {
    ...hops,
    kinds: hops.kinds.map((kind) => ({
      ...kind,
      destinations: destinationsOf(model, kind.ranges),
    })),
  }
}

function destinationsOf(model: Model, ranges: readonly HopRangeJson[]): Destination[] {
  const found = new Map<string, { owner: SpaceOwner; held: Range[]; places: number[] }>()
  const order = new Map<SpaceOwner, number>()
  const whole = ranges.map(({ from, to }): Range => ({ from: addressOf(from), to: addressOf(to) }))
  for (const { owner } of byOwner(model, whole)) order.set(owner, order.size)
  for (const [place, { way, otherWays, seenAs, leavesBy, cause, family }] of ranges.entries()) {
    const outcome = JSON.stringify([family, way, otherWays, seenAs, leavesBy, cause])
    for (const { owner, ranges: held } of byOwner(model, [whole[place]!])) {
      const key = `${owner} ${outcome}`
      const known = found.get(key)
      if (known) {
        known.held.push(...held)
        known.places.push(place)
      } else found.set(key, { owner, held: [...held], places: [place] })
    }
  }
  return [...found.values()]
    .sort((a, b) => order.get(a.owner)! - order.get(b.owner)!)
    .map(({ owner, held, places }) => ({
      owner,
      said: ownerText(owner),
      family: ranges[places[0]!]!.family,
      ranges: held.map(rangeText),
      places,
    }))
}
