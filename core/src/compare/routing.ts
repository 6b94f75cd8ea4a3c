import { partsWithin, rangeSet, type Range, type RangeSet } from '../address/ranges'
import { OWN_HOST, OWN_SUBNET, type OnwardRange } from '../hops/onward'
import { entriesOf, type KindRouting, type Routing } from '../hops/routing'
import type { HopRange } from '../hops/sweep'
import { sameOutcome, type Ways } from '../hops/ways'
import type { Model } from '../model/model'
import { eachOverlap, ofSort, type PairRouting, type PairWays, type SortOfWays } from './ways'

/** A state of an estate with its ways, and what decides them. */
export interface RoutedState {
  readonly model: Model
  readonly ways: Ways
  readonly routing: Routing
}

const FAMILIES = [4, 6] as const

/**
 * The ways of two states. Those of a subnet that routes alike in both are the same objects, and
 * are not found to know that. Costs a step for each subnet that is asked for.
 */
export function waysBetween(before: RoutedState, after: RoutedState): PairWays {
  const routing = pairRouting(before.routing, after.routing)
  return {
    before: before.ways,
    after: (subnet) => {
      const isSame = routing.rerouted(subnet.id)?.every((ranges) => ranges.length === 0)
      const old = before.model.subnets[before.model.index.subnets.get(subnet.id) ?? -1]
      return isSame && old ? before.ways(old) : after.ways(subnet)
    },
    routing,
  }
}

function pairRouting(before: Routing, after: Routing): PairRouting {
  const beyond = changedBeyond(before, after)
  const known = new Map<readonly HopRange[], readonly Range[]>()
  /** Where two lists say another thing: found once for lists that many subnets share. */
  const changedIn = (a: readonly HopRange[], b: readonly HopRange[]): readonly Range[] => {
    if (a !== b) return differing(a, b, beyond)
    let ranges = known.get(a)
    if (!ranges) known.set(a, (ranges = leadingTo(a, beyond)))
    return ranges
  }
  const found = new Map<string, readonly RangeSet[] | null>()
  return {
    rerouted: (subnet) => {
      let sets = found.get(subnet)
      if (sets === undefined) {
        sets = reroutedKinds(before, after, subnet, changedIn)
        found.set(subnet, sets)
      }
      return sets
    },
    rangesOf: (sort) => {
      const sides = [rangesIn(before, sort), rangesIn(after, sort)]
      return (subnet, kind) => {
        const found = sides.map((side) => side(subnet, kind))
        return found.includes(null) ? null : found.flatMap((ranges) => ranges!)
      }
    },
  }
}

function reroutedKinds(
  before: Routing,
  after: Routing,
  subnet: string,
  changedIn: (a: readonly HopRange[], b: readonly HopRange[]) => readonly Range[],
): readonly RangeSet[] | null {
  const [olds, news] = [before.subnets.get(subnet), after.subnets.get(subnet)]
  if (!olds || !news || olds.length !== news.length) return null
  if (olds.some(({ names }, at) => names !== news[at]!.names)) return null
  if (before.ofItsOwn.get(subnet)?.text !== after.ofItsOwn.get(subnet)?.text) return null
  return news.map((now, at) =>
    rangeSet(FAMILIES.flatMap((family) => changedIn(olds[at]![family], now[family]))),
  )
}

/** Where what lies beyond a transit differs, by the key of the place where packets come in. */
function changedBeyond(before: Routing, after: Routing): ReadonlyMap<string, RangeSet> {
  const out = new Map<string, RangeSet>()
  for (const [key, now] of after.beyond) {
    const old = before.beyond.get(key)
    if (!old || old === now) continue
    const ranges: Range[] = []
    eachOverlap(old, now, (a, b, range) => {
      if (!a || !b || !sameBeyond(a, b)) ranges.push(range)
    })
    if (ranges.length > 0) out.set(key, rangeSet(ranges))
  }
  return out
}

/** Whether two ranges say the same to all who come there. */
const sameBeyond = (a: OnwardRange, b: OnwardRange): boolean =>
  sameOutcome(a.outcome, b.outcome) &&
  a.sources.from === b.sources.from &&
  a.sources.to === b.sources.to &&
  [...(a.passed ?? [])].join() === [...(b.passed ?? [])].join()

/** The destinations that two lists of one kind of host may lead otherwise. */
function differing(
  before: readonly HopRange[],
  after: readonly HopRange[],
  beyond: ReadonlyMap<string, RangeSet>,
): readonly Range[] {
  const out: Range[] = [...leadingTo(after, beyond)]
  eachOverlap(before, after, (a, b, range) => {
    if (!a || !b || !sameHop(a, b)) out.push(range)
  })
  return out
}

/** Whether two ranges lead alike up to a transit, and to the same one. */
const sameHop = ({ hop: a, behind: x }: HopRange, { hop: b, behind: y }: HopRange): boolean =>
  x === null || y === null
    ? x === y && sameOutcome(a, b)
    : x.junction.key === y.junction.key &&
      x.own === y.own &&
      sameOutcome(x.before, y.before) &&
      x.places.join() === y.places.join()

/** The destinations of some ranges whose way leads to what differs beyond a transit. */
function leadingTo(
  list: readonly HopRange[],
  beyond: ReadonlyMap<string, RangeSet>,
): readonly Range[] {
  if (beyond.size === 0) return []
  return entriesOf(list).flatMap((range) => {
    const changed = beyond.get(range.behind.junction.key)
    return changed ? partsWithin(changed, range) : []
  })
}

/** The destinations of a sort in one state, asked of each list once: many subnets share them. */
function rangesIn(
  { subnets, ofItsOwn, beyond }: Routing,
  sort: SortOfWays,
): (subnet: string, kind: number) => readonly Range[] | null {
  const behind = new Map<string, RangeSet>()
  const isSort = ofSort(sort)
  const beyondTransit = (key: string): RangeSet => {
    let ranges = behind.get(key)
    if (!ranges) {
      ranges = rangeSet((beyond.get(key) ?? []).filter(({ outcome }) => isSort(outcome)))
      behind.set(key, ranges)
    }
    return ranges
  }
  const known = new Map<readonly HopRange[], readonly Range[]>()
  const inList = (list: readonly HopRange[]): readonly Range[] => {
    let ranges = known.get(list)
    if (!ranges) {
      ranges = list.flatMap((range): readonly Range[] => {
        if (range.behind === null) return isSort(range.hop) ? [range] : []
        if (range.behind.before.ways.some(sort.passes)) return [range]
        return partsWithin(beyondTransit(range.behind.junction.key), range)
      })
      known.set(list, ranges)
    }
    return ranges
  }
  return (subnet, at) => {
    const kind = subnets.get(subnet)?.[at]
    if (!kind) return null
    const beyond = ofItsOwn.get(subnet)?.kinds[at] ?? []
    return [
      ...FAMILIES.flatMap((family) => [
        ...inList(kind[family]),
        ...ownOfSort(subnet, kind, kind[family], sort),
      ]),
      ...beyond.filter(({ outcome }) => isSort(outcome)),
    ]
  }
}

/** Ranges whose cause lies with the sender, which shared lists do not name. */
function ownOfSort(
  subnet: string,
  { kind }: KindRouting,
  list: readonly HopRange[],
  { ends }: SortOfWays,
): readonly Range[] {
  return lostAtHome(list).filter(({ hop }) =>
    [`subnets/${subnet}`, kind.ref].some((object) =>
      ends({ ...hop, cause: { ...hop.cause!, object } }),
    ),
  )
}

const own = new WeakMap<readonly HopRange[], readonly HopRange[]>()

function lostAtHome(list: readonly HopRange[]): readonly HopRange[] {
  let known = own.get(list)
  if (!known) {
    known = list.filter(
      ({ hop: { cause } }) =>
        cause !== null && (cause.object === OWN_SUBNET || cause.object === OWN_HOST),
    )
    own.set(list, known)
  }
  return known
}
