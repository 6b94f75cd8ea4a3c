import { compareAddresses, nextAddress, previousAddress, type Address, type Family } from '../address/address'
import { wholeSpace } from '../address/prefix-table'
import { rangeSetOf, type Range, type RangeSet } from '../address/ranges'
import type { Model, RouteModel, SubnetModel } from '../model/model'
import { TCP } from '../packet/packet'
import { allPackets } from '../packet/packet-set'
import { hasTagKey } from '../rules/rule-book'
import { lookUp } from '../routes/look-up'
import { leavesByOf, wayOf } from '../trace/trace'
import type { Cause } from '../walk/causes'
import { startState, walk } from '../walk/engine'
import { isPassedOver } from '../walk/next-hop'
import { publicAddressOf } from '../walk/public-address'
import { scopeOf } from '../walk/scope'
import type { Walked, WalkContext } from '../walk/state'
import type { HostKind } from './kinds'

/** What becomes of packets to some destinations, as far as routes alone decide it. */
export interface Hop {
  /** The routes that win at the subnet, several of equal cost; none where no route covers the destination. */
  readonly winners: readonly RouteModel[]
  /** The routes that cover the destination too, and lose. */
  readonly shadowed: readonly RouteModel[]
  /** What the packets pass, in order; for equal-cost routes one list for each branch. */
  readonly ways: readonly (readonly string[])[]
  readonly leavesBy: string | null
  readonly seenAs: readonly string[]
  readonly cause: Pick<Cause, 'code' | 'object' | 'inner'> | null
  /** The network that has the packet in the end; −1 where it left the networks, or was lost. */
  readonly into: number
  /** Where it left the networks for: `internet`, a site or a service. */
  readonly reaches: string | null
}

export interface HopRange extends Range {
  readonly hop: Hop
}

/** The whole destination space of a family in the fewest ranges, and the sources for which it is the same. */
export interface Sweep {
  readonly ranges: readonly HopRange[]
  readonly sources: Range
}

/** One outcome behind a route, with the destinations for which it holds. */
interface Onward {
  readonly span: Range
  readonly sources: Range
  readonly walks: readonly Walked[]
}

/**
 * Cuts the whole destination space of a family into the fewest ranges that share one outcome,
 * exactly: each walk also tells for which span of destinations it would have been the same, and the
 * sweep goes on behind that span. (After the interval view of forwarding tables in the literature
 * on equivalence classes of the address space.)
 */
export function sweep(model: Model, subnet: SubnetModel, kind: HostKind, family: Family): Sweep {
  const source = kind.sources[family]
  if (source === null) return { ranges: [], sources: wholeSpace(family) }
  const onwards = new Map<RouteModel, Onward[]>()
  const hops = new Map<string, Hop>()
  const out: { from: Address; to: Address; hop: Hop }[] = []
  let sources: Range = wholeSpace(family)
  const add = (from: Address, to: Address, hop: Hop): void => {
    const last = out.at(-1)
    if (last && last.hop === hop) last.to = to
    else out.push({ from, to, hop })
  }
  for (let at: Address | null = wholeSpace(family).from; at !== null;) {
    const found = lookUp(model, subnet, at, routingSender(model, subnet, kind, source), (route) => !isPassedOver(model, subnet.network, route.target))
    let to = found.to
    const branches: Walked[] = []
    for (const winner of found.winners) {
      const onward = onwardFor(model, subnet, kind, source, winner, at, onwards)
      if (compareAddresses(onward.span.to, to) < 0) to = onward.span.to
      sources = meetRange(sources, onward.sources)
      branches.push(...onward.walks)
    }
    const table = subnet.table >= 0 ? model.tables[subnet.table]!.ref : subnet.ref
    const losers = found.candidates.filter((c) => !found.winners.includes(c.route)).map((c) => c.route)
    const hop = intern(hops, found.winners.length === 0 ? noRoute(losers, table) : hopOf(found.winners, losers, branches))
    for (const part of splitByHome(model, hop, branches, at, to)) add(part.from, part.to, intern(hops, part.hop))
    at = nextAddress(to)
  }
  return { ranges: out, sources }
}

const meetRange = (a: Range, b: Range): Range => ({ from: a.from > b.from ? a.from : b.from, to: a.to < b.to ? a.to : b.to })

const routingSender = (model: Model, subnet: SubnetModel, kind: HostKind, source: Address) => ({
  hasTag: (key: string): boolean => hasTagKey(model, kind.place, key),
  hasPublicAddress: (): boolean => publicAddressOf(model, subnet.network, source) !== null,
})

/** The walk on from a route, done once for all destinations that fare alike behind it. */
function onwardFor(
  model: Model,
  subnet: SubnetModel,
  kind: HostKind,
  source: Address,
  route: RouteModel,
  dst: Address,
  known: Map<RouteModel, Onward[]>,
): Onward {
  const list = known.get(route) ?? []
  const before = list.find(({ span }) => span.from <= dst && dst <= span.to)
  if (before) return before
  const family = typeof dst === 'number' ? 4 : 6
  const scope = scopeOf(allPackets(family))
  const context: WalkContext = { model, direction: 'forward', answers: null, about: 'routes', evidence: false, scope, beyondFaults: false }
  const packet = { src: source, dst, protocol: TCP, srcPort: 50000, dstPort: 443 }
  const { walks } = walk(context, startState(packet, { at: 'hop', from: { network: subnet.network, subnet: subnet.index, ref: kind.ref }, route }))
  const onward: Onward = { span: scope.box.dst, sources: scope.box.src, walks }
  known.set(route, [...list, onward])
  return onward
}

const noRoute = (shadowed: readonly RouteModel[], object: string): Hop => ({
  winners: [],
  shadowed,
  ways: [[]],
  leavesBy: null,
  seenAs: [],
  cause: { code: 'no-route', object },
  into: -1,
  reaches: null,
})

function hopOf(winners: readonly RouteModel[], shadowed: readonly RouteModel[], walks: readonly Walked[]): Hop {
  const first = walks.find((one) => one.cause !== null) ?? walks[0]!
  const { cause } = first
  const end = first.deliveredAt
  return {
    winners,
    shadowed,
    ways: walks.map((one) => wayOf(one.state.stations)),
    leavesBy: leavesByOf(first.state),
    seenAs: [...new Set(walks.flatMap((one) => one.state.seenAs))],
    cause: cause === null ? null : { code: cause.code, object: cause.object, ...(cause.inner ? { inner: cause.inner } : {}) },
    into: end?.in === 'network' ? end.network : -1,
    reaches: end?.in === 'outside' ? end.ref : null,
  }
}

/** One object for each outcome, so that neighbours can be compared by identity. */
function intern(hops: Map<string, Hop>, hop: Hop): Hop {
  const route = (r: RouteModel): string => `${r.origin} ${r.table} ${r.entry} ${r.prefix.address}/${r.prefix.length} ${r.learnedFrom ?? ''}`
  const { winners, shadowed, ways, leavesBy, seenAs, cause, into, reaches } = hop
  const key = `${winners.map(route).join()}|${shadowed.map(route).join()}|${ways.join(';')}|${leavesBy}|${seenAs.join()}|${cause?.code} ${cause?.object} ${cause?.inner?.code ?? ''} ${cause?.inner?.object ?? ''}|${into} ${reaches}`
  const known = hops.get(key)
  if (known) return known
  hops.set(key, hop)
  return hop
}

const homes = new WeakMap<object, RangeSet>()

/** Every address of a network's subnets. */
export function subnetRanges(model: Model, network: number): RangeSet {
  const of = model.networks[network]!
  let known = homes.get(of.subnetSpace)
  if (!known) homes.set(of.subnetSpace, (known = rangeSetOf(of.subnets.flatMap((index) => model.subnets[index]!.allRanges))))
  return known
}

/** A span that a network takes, cut where it has a subnet and where it has none. */
function splitByHome(model: Model, hop: Hop, walks: readonly Walked[], from: Address, to: Address): { from: Address; to: Address; hop: Hop }[] {
  const local = walks.flatMap((one) => (one.deliveredAt?.in === 'network' ? [one.deliveredAt] : []))
  if (local.length === 0) return [{ from, to, hop }]
  const cuts = new Set<Address>([from])
  for (const { network } of local) {
    for (const range of within(subnetRanges(model, network), from, to)) {
      if (range.from > from) cuts.add(range.from)
      const next = range.to < to ? nextAddress(range.to) : null
      if (next !== null) cuts.add(next)
    }
  }
  const starts = [...cuts].sort(compareAddresses)
  return starts.map((start, index) => {
    const end = index + 1 < starts.length ? previousAddress(starts[index + 1]!)! : to
    const homeless = local.find(({ network }) => within(subnetRanges(model, network), start, start).length === 0)
    if (!homeless || hop.cause !== null) return { from: start, to: end, hop }
    const object = homeless.fromSubnet >= 0 ? model.subnets[homeless.fromSubnet]!.ref : model.networks[homeless.network]!.ref
    return { from: start, to: end, hop: { ...hop, into: -1, cause: { code: 'no-such-subnet', object } } }
  })
}

/** The ranges of a set that meet a span. */
function within(set: RangeSet, from: Address, to: Address): Range[] {
  let low = 0
  let high = set.length
  while (low < high) {
    const middle = (low + high) >>> 1
    if (compareAddresses(set[middle]!.to, from) < 0) low = middle + 1
    else high = middle
  }
  const out: Range[] = []
  for (let at = low; at < set.length && compareAddresses(set[at]!.from, to) <= 0; at++) out.push(set[at]!)
  return out
}
