import {
  familyOf,
  formatAddress,
  nextAddress,
  previousAddress,
  type Address,
  type Family,
} from '../address/address'
import { firstFrom, type Range } from '../address/ranges'
import { wholeSpace } from '../address/prefix-table'
import { extend, cached, lazy } from '../incremental/cells'
import type { Model, RouteModel, SubnetModel } from '../model/model'
import { sameList } from '../model/sections'
import { tagKeysOf } from '../rules/applies-to'
import { lookUp, type LookUp } from '../routes/look-up'
import { ownRoutes, type RoutesOfTable } from '../routes/own-routes'
import { isPassedOver } from '../walk/next-hop-owner'
import { sweepKey } from '../walk/next-hops/registry'
import { publicAddressOf } from '../walk/public-address'
import type { HostKind } from './kinds'
import { outcomesBeyondTransit, outcomesOfItsOwn, type Wanted } from './behind'
import {
  meetSpans,
  newTrails,
  OWN_SUBNET,
  onwardAt,
  type BeyondTransit,
  type StartingPoint,
  type OnwardMemo,
  type OnwardRange,
  type Trails,
} from './onward'
import { distinctWays, identity, intern, type Outcome } from './outcome'

/** The outcome of packets to some destinations as far as routes alone decide it. */
export interface Hop extends Outcome {
  /**
   * The routes that win at the subnet, several of equal cost; none where no route covers the
   * destination.
   */
  readonly winners: readonly RouteModel[]
  /** The routes that cover the destination too, and lose; not those for other hosts. */
  readonly shadowed: readonly RouteModel[]
}

export interface HopRange extends Range {
  readonly hop: Hop
  /** The transit that the way leads to; the outcomes beyond it are computed on demand. */
  readonly behind: BeyondTransit | null
}

/** The whole destination space of a family, and the sources for which it is the same. */
export interface Sweep {
  /** Up to the first transit, in the fewest ranges. */
  readonly ranges: readonly HopRange[]
  readonly sources: Range
  /**
   * Whether the result holds for no other subnet: packets come back through the table they were
   * sent by.
   */
  readonly individual: boolean
}

/**
 * Cuts the whole destination space of a family into the fewest ranges that share one outcome,
 * exactly: each look-up and each walk also tells for which span of destinations it would have been
 * the same, and the sweep goes on behind that span. (After the interval view of forwarding tables
 * in the literature on equivalence classes of the address space.) `sender` names all that next hops
 * ask of the subnet, for those that share an answer.
 */
export function sweep(
  model: Model,
  subnet: SubnetModel,
  kind: HostKind,
  family: Family,
  memo: OnwardMemo,
  sender: string,
  spans: readonly Range[] = [wholeSpace(family)],
): Sweep {
  const source = kind.sources[family]
  if (source === null) return { ranges: [], sources: wholeSpace(family), individual: false }
  const behindRoute = behindRoutes(model, memo, sender)
  const hops = hopInterner()
  const joint = jointOutcomes(memo)
  const out: { from: Address; to: Address; hop: Hop; behind: BeyondTransit | null }[] = []
  const asking = askingOf(model, subnet, kind, source)
  const table = subnet.table >= 0 ? model.tables[subnet.table]!.ref : subnet.ref
  const lost = withoutRoute(memo, subnet.table >= 0 ? table : OWN_SUBNET)
  let sources: Range = wholeSpace(family)
  let individual = false
  const add = (from: Address, to: Address, hop: Hop, behind: BeyondTransit | null): void => {
    const last = out.at(-1)
    const goesOn = last && last.hop === hop && last.behind === behind
    if (goesOn && nextAddress(last.to) === from) last.to = to
    else out.push({ from, to, hop, behind })
  }
  /** Adds the ranges of a span in which the same routes win, cut where they fare differently. */
  const addWon = (span: Range, winners: readonly RouteModel[], shadowed: readonly RouteModel[]) => {
    const pausing = winners.length === 1
    const partsOf = winners.map((route) =>
      behindRoute(onsetOf(model, subnet, kind, source, route, table), pausing),
    )
    for (let from: Address | null = span.from; from !== null && from <= span.to;) {
      const parts = partsOf.map((partAt) => partAt(from!))
      const to = parts.reduce<Address>(
        (least, part) => (part.to < least ? part.to : least),
        span.to,
      )
      for (const part of parts) {
        sources = meetSpans(sources, part.sources)
        individual ||= part.comesBack || part.passed !== null
      }
      const [first] = parts
      const outcome = pausing ? first!.outcome : joint(parts.map((part) => part.outcome))
      add(from, to, hops(winners, shadowed, outcome), first!.behind)
      from = nextAddress(to)
    }
  }
  const isAsked = (route: RouteModel): boolean => !isPassedOver(model, subnet.network, route.target)
  for (const span of spans)
    for (let at: Address | null = span.from; at !== null && at <= span.to;) {
      const found = lookUp(model, subnet, at, asking, isAsked)
      const { winners } = found
      const to = found.to < span.to ? found.to : span.to
      const losers = losersOf(found)
      if (winners.length === 0) add(at, to, hops([], losers, lost), null)
      else addWon({ from: at, to }, winners, losers)
      at = nextAddress(to)
    }
  return { ranges: out, sources, individual }
}

/** The routes that cover a destination and lose, in the order of preference. */
const losersOf = ({ winners, covering, candidates }: LookUp): readonly RouteModel[] =>
  covering.length === winners.length
    ? []
    : candidates().flatMap(({ route }) => (winners.includes(route) ? [] : [route]))

/** What a kind of host brings to route choice. */
function askingOf(model: Model, subnet: SubnetModel, kind: HostKind, source: Address) {
  const byTags = model.networks[subnet.network]!.behaviour === 'priority-routed'
  return {
    hasTag: (key: string): boolean => kind.tags.includes(key),
    own: (table: RoutesOfTable) =>
      ownRoutes(table, () => (byTags ? kind.tags : tagKeysOf(model, kind.place))),
    hasPublicAddress: (): boolean => publicAddressOf(model, subnet.network, source) !== null,
  }
}

/** What becomes of packets that no route covers. */
const withoutRoute = (memo: OnwardMemo, object: string): Outcome =>
  intern(memo, {
    ways: [[]],
    leavesBy: null,
    seenAs: [],
    cause: { code: 'no-route', object },
    reaches: null,
  })

const onsetOf = (
  model: Model,
  subnet: SubnetModel,
  kind: HostKind,
  source: Address,
  route: RouteModel,
  at: string,
): RoutedOnset => ({
  next: {
    at: 'hop',
    from: { network: subnet.network, subnet: subnet.index, ref: kind.ref },
    route,
  },
  source,
  pendingNat: -1,
  home: subnet.network,
  network: subnet.network,
  at,
  own: { subnet: subnet.ref, host: kind.ref, publicAddress: ownAddress(model, kind) },
})

const ownAddress = (model: Model, kind: HostKind): string | null => {
  const address =
    kind.interfaces.length > 0 ? model.interfaces[kind.interfaces[0]!]!.publicAddress : null
  return address === null ? null : formatAddress(address)
}

type RoutedOnset = StartingPoint & {
  readonly next: { readonly at: 'hop'; readonly route: RouteModel }
}

/**
 * Outcomes of routes, computed only for the destinations asked for: a default route loses most of
 * what it covers to longer ones. Each is asked for destinations in ascending order.
 */
function behindRoutes(
  model: Model,
  memo: OnwardMemo,
  sender: string,
): (onset: RoutedOnset, pausing: boolean) => (dst: Address) => OnwardRange {
  const own = new Map<string, OnwardRange[]>()
  const trails = new Map<string, Trails>()
  /** The outcomes kept under a key in some lists, at a destination: one after the other. */
  const follow = (
    lists: Map<string, OnwardRange[]>,
    key: string,
    onset: RoutedOnset,
    pausing: boolean,
  ): ((dst: Address) => OnwardRange) => {
    const list = cached(lists, key, (): OnwardRange[] => [])
    let at = 0
    return (dst) => {
      const following = list[at + 1]
      if (following && following.from <= dst && dst <= following.to) return list[++at]!
      at = firstFrom(list, dst)
      const next = list[at]
      if (next && next.from <= dst) return next
      const whole = wholeSpace(familyOf(dst))
      const before = list[at - 1]
      const within = {
        from: before ? nextAddress(before.to)! : whole.from,
        to: next ? previousAddress(next.from)! : whole.to,
      }
      const trail = cached(trails, `${lists === own} ${key} ${onset.source}`, newTrails)
      const made = extend(lists, key, () =>
        onwardAt(model, memo, onset, dst, within, pausing, trail),
      )
      list.splice(at, 0, ...made)
      at += made.findIndex((part) => part.from <= dst && dst <= part.to)
      return list[at]!
    }
  }
  return (onset, pausing) => {
    const key = `${sweepKey(onset.next.route)} ${pausing}`
    const shared = follow(memo.routes, `${sender} ${key}`, onset, pausing)
    const ofItsOwn = lazy(() => follow(own, key, onset, pausing))
    return (dst) => {
      const part = shared(dst)
      const { from, to } = part.sources
      const fits =
        from <= onset.source && onset.source <= to && !part.comesBack && !part.passed?.has(onset.at)
      return fits ? part : ofItsOwn()(dst)
    }
  }
}

/** The ranges of a host, those beyond transits cut by outcome. */
export function expandHops(
  model: Model,
  subnet: SubnetModel,
  kind: HostKind,
  ranges: readonly HopRange[],
  memo: OnwardMemo,
): readonly HopRange[] {
  if (ranges.every((range) => range.behind === null)) return ranges
  const hops = hopInterner()
  return ranges.flatMap((range): HopRange[] => {
    if (range.behind === null) return [range]
    const { winners, shadowed } = range.hop
    return expandRange(model, subnet, kind, { ...range, behind: range.behind }, memo).map(
      ({ from, to, outcome }): HopRange => ({
        from,
        to,
        hop: hops(winners, shadowed, outcome),
        behind: null,
      }),
    )
  })
}

/** The outcomes beyond a transit that a route leads a host to. */
export function expandRange(
  model: Model,
  subnet: SubnetModel,
  kind: HostKind,
  range: HopRange & { readonly behind: BeyondTransit },
  memo: OnwardMemo,
  wanted?: Wanted,
): readonly OnwardRange[] {
  const onset = (): StartingPoint => onsetBeyond(model, subnet, kind, range)
  return outcomesBeyondTransit(model, memo, onset, range, wanted)
}

/** Of those, the ones that this host does not share with others who come to the transit. */
export function rangesOfItsOwn(
  model: Model,
  subnet: SubnetModel,
  kind: HostKind,
  range: HopRange & { readonly behind: BeyondTransit },
  memo: OnwardMemo,
): readonly OnwardRange[] {
  return outcomesOfItsOwn(model, memo, () => onsetBeyond(model, subnet, kind, range), range)
}

function onsetBeyond(
  model: Model,
  subnet: SubnetModel,
  kind: HostKind,
  { from, hop }: HopRange,
): StartingPoint {
  const table = subnet.table >= 0 ? model.tables[subnet.table]!.ref : subnet.ref
  const source = kind.sources[familyOf(from)]!
  return {
    ...onsetOf(model, subnet, kind, source, hop.winners[0]!, table),
    home: -1,
    own: null,
  }
}

/**
 * The outcomes of equal-cost branches, each found once: lost if one branch is, with the cause of
 * the first lost one.
 */
function jointOutcomes(memo: OnwardMemo): (outcomes: readonly Outcome[]) => Outcome {
  const known = new Map<string, Outcome>()
  return (outcomes) =>
    cached(known, outcomes.map(identity).join(), () => {
      const first = outcomes.find((one) => one.cause !== null) ?? outcomes[0]!
      return intern(memo, {
        ...first,
        ways: distinctWays(outcomes.flatMap((one) => one.ways)),
        seenAs: first.cause ? [] : [...new Set(outcomes.flatMap((one) => one.seenAs))],
      })
    })
}

/** One object for each hop of a sweep, so that neighbours can be compared by identity. */
function hopInterner(): (
  winners: readonly RouteModel[],
  shadowed: readonly RouteModel[],
  outcome: Outcome,
) => Hop {
  // Thousands of learned routes may come to one outcome, so hops are found by both it and the route
  // that won.
  const hops = new Map<Outcome, Map<RouteModel | undefined, Hop[]>>()
  return (winners, shadowed, outcome) => {
    let byRoute = hops.get(outcome)
    if (!byRoute) hops.set(outcome, (byRoute = new Map()))
    let list = byRoute.get(winners[0])
    if (!list) byRoute.set(winners[0], (list = []))
    const known = list.find(
      (hop) => sameList(hop.winners, winners) && sameList(hop.shadowed, shadowed),
    )
    if (known) return known
    const hop = { ...outcome, winners, shadowed }
    list.push(hop)
    return hop
  }
}
