import { compareAddresses, familyOf, nextAddress, type Address } from '../address/address'
import { wholeSpace } from '../address/prefix-table'
import { rangeSet, type Range, type RangeSet } from '../address/ranges'
import type { Model } from '../model/model'
import type { Cause } from '../walk/causes'
import { startState, walk } from '../walk/engine'
import { TCP } from '../packet/packet'
import type { End, Walked, WalkContext } from '../walk/state'
import { wayOf } from '../trace/trace'

/** One outcome that a set of destinations shares. */
export interface Way {
  readonly ranges: RangeSet
  /** What the packets pass, in order; for equal-cost routes one list for each branch. */
  readonly ways: readonly (readonly string[])[]
  readonly leavesBy: string | null
  readonly seenAs: readonly string[]
  readonly cause: Cause | null
}

/** Where packets are sent from. */
export interface Origin {
  readonly end: End & { in: 'subnet' }
  readonly source: Address
}

/**
 * Cuts a set of destinations into the fewest sets that share one outcome, exactly: each walk also
 * tells for which span of destinations it would have been the same, and the sweep goes on behind
 * that span. (After the interval view of forwarding tables in the literature on equivalence classes
 * of the address space.)
 */
export function sweep(model: Model, origin: Origin, destinations: RangeSet): Way[] {
  const context: WalkContext = { model, direction: 'forward', answers: null, about: 'routes', evidence: false, beyondFaults: false }
  const found = new Map<string, { way: Omit<Way, 'ranges'>; ranges: Range[] }>()
  for (const range of destinations) {
    if (familyOf(range.from) !== familyOf(origin.source)) continue
    let at: Address | null = range.from
    while (at !== null && compareAddresses(at, range.to) <= 0) {
      const packet = { src: origin.source, dst: at, protocol: TCP, srcPort: 50000, dstPort: 443 }
      const next = { at: 'send', sender: { kind: 'host', place: origin.end.place, ref: origin.end.ref } } as const
      const { walks } = walk(context, { ...startState(packet, next), scope: wholeSpace(familyOf(packet.dst)) })
      const to = walks.reduce<Address>((least, one) => (compareAddresses(one.state.scope!.to, least) < 0 ? one.state.scope!.to : least), range.to)
      const way = wayOfWalks(walks)
      const key = JSON.stringify(way)
      const known = found.get(key)
      if (known) known.ranges.push({ from: at, to })
      else found.set(key, { way, ranges: [{ from: at, to }] })
      at = nextAddress(to)
    }
  }
  return [...found.values()].map(({ way, ranges }) => ({ ...way, ranges: rangeSet(ranges) }))
}

function wayOfWalks(walks: readonly Walked[]): Omit<Way, 'ranges'> {
  const first = walks.find((one) => one.cause !== null) ?? walks[0]!
  return {
    ways: walks.map((one) => wayOf(one.state.stations)),
    leavesBy: first.state.leavesBy,
    seenAs: [...new Set(walks.flatMap((one) => one.state.seenAs))],
    cause: first.cause,
  }
}
