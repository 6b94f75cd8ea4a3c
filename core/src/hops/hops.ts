import { extend, cached, lazy } from '../incremental/cells'
import { derived } from '../incremental/derived'
import type { Grain } from '../incremental/grain'
import {
  compareAddresses,
  familyOf,
  formatAddress,
  type Address,
  type Family,
} from '../address/address'
import { containsAddress } from '../address/prefix'
import type { Model, RouteModel, SubnetModel } from '../model/model'
import { hostKinds, type HostKind } from './kinds'
import { onwardMemo, OWN_ADDRESS, OWN_HOST, OWN_SUBNET, type OnwardMemo } from './onward'
import { identity, type Outcome } from './outcome'
import { firstFrom, type Range, type RangeSet } from '../address/ranges'
import { expandHops, expandRange, sweep, type Hop, type HopRange, type Sweep } from './sweep'
import { laidOver, routesByTags } from './tagged'

/** The effective next hops of one kind of host in a subnet, up to the first transit. */
export interface HopTable {
  readonly kind: HostKind
  /**
   * The routes that it has by its tags: their ranges are looked up, and others, in which they lose,
   * are those of hosts without tags (`shadowedAt`).
   */
  readonly byTags: { readonly [F in Family]: readonly RouteModel[] }
  readonly 4: readonly HopRange[]
  readonly 6: readonly HopRange[]
  /**
   * The same ranges as shared by all subnets with this routing: without the names of this subnet
   * and host.
   */
  readonly shared: { readonly [F in Family]: readonly HopRange[] }
  /** A shared outcome with the names of this subnet and host put in. */
  readonly named: <T extends Outcome>(outcome: T) => T
}

/** Destinations of a subnet that share one outcome. */
export interface Part {
  readonly outcome: Outcome
  /** In ascending order; where there are too many, only the first ones. */
  readonly ranges: readonly Range[]
  /** How many more ranges there are. */
  readonly more: number
  /** How many addresses all of them have. */
  readonly span: number
}

/**
 * Caches shared by all subnets of one model: subnets with the same routing share their outcomes.
 */
export interface HopMemo extends OnwardMemo {
  readonly sweeps: Map<string, Sweep[]>
  /** Outcomes within sets of destinations, cached for as long as the set is. */
  meetings: WeakMap<RangeSet, Map<string, Part[]>>
}

/** Empty caches for the next hops of one model; `fine` for a model that changes. */
export const hopMemo = (grain: Grain = 'coarse'): HopMemo => ({
  ...onwardMemo(grain),
  sweeps: new Map(),
  meetings: new WeakMap(),
})

/**
 * Releases the values that only a few networks share: destinations within sets, and what lies
 * beyond transits on their own way. An analysis that goes from network to network calls it between
 * them, or these values fill its memory.
 */
export function releasePerNetworkCaches(memo: HopMemo): void {
  memo.joined.clear()
  memo.meetings = new WeakMap()
}

/**
 * The effective next hops of a subnet: design part 3.5. With a memo, subnets that share a table
 * share the work.
 */
export function hopsOf(model: Model, subnet: SubnetModel, memo: HopMemo = hopMemo()): HopTable[] {
  return hostKinds(model, subnet).map((kind): HopTable => {
    const both = {
      4: shared(model, subnet, kind, 4, memo).ranges,
      6: shared(model, subnet, kind, 6, memo).ranges,
    }
    const named = namesOf(model, subnet, kind)
    const own = {
      4: lazy(() => withNames(both[4], named)),
      6: lazy(() => withNames(both[6], named)),
    }
    return {
      kind,
      byTags: {
        4: routesByTags(model, subnet, kind, 4),
        6: routesByTags(model, subnet, kind, 6),
      },
      shared: both,
      named,
      get 4() {
        return own[4]()
      },
      get 6() {
        return own[6]()
      },
    }
  })
}

/** All ranges of one family, with those beyond transits. */
export const allHops = (
  model: Model,
  subnet: SubnetModel,
  table: HopTable,
  family: Family,
  memo: HopMemo = hopMemo(),
): readonly HopRange[] => expandHops(model, subnet, table.kind, table[family], memo)

function shared(
  model: Model,
  subnet: SubnetModel,
  kind: HostKind,
  family: Family,
  memo: HopMemo,
): Sweep {
  const source = kind.sources[family]
  if (source === null) return { ranges: [], sources: { from: 0, to: 0 }, individual: false }
  if (!subnet.up) return lostAtHome(subnet, family)
  const key = `${routingKey(model, subnet, kind)} ${family}`
  const list = cached(memo.sweeps, key, (): Sweep[] => [])
  const known = list.find(({ sources }) => sources.from <= source && source <= sources.to)
  if (known) return known
  const sender = `${sendingKey(model, subnet, kind)} ${family}`
  const made = extend(memo.sweeps, key, (): Sweep => {
    const byTags = routesByTags(model, subnet, kind, family)
    const again = (spans?: readonly Range[]): Sweep =>
      sweep(model, subnet, kind, family, memo, sender, spans)
    if (byTags.length === 0) return again()
    const base = shared(model, subnet, { ...kind, tags: [] }, family, memo)
    const fits = !base.individual && base.sources.from <= source && source <= base.sources.to
    return fits ? laidOver(base, byTags, again) : again()
  })
  if (!made.individual) list.push(made)
  return made
}

/**
 * The routes that cover a range of a kind of host and lose there: beside those that it has in
 * common with hosts without tags, the ones it has by its tags.
 */
export function shadowedAt(
  { kind, byTags }: Pick<HopTable, 'kind' | 'byTags'>,
  { from, hop }: HopRange,
): readonly RouteModel[] {
  if (kind.tags.length === 0) return hop.shadowed
  const others = byTags[familyOf(from)].filter(
    (route) =>
      containsAddress(route.prefix, from) &&
      !hop.winners.includes(route) &&
      !hop.shadowed.includes(route),
  )
  return others.length === 0 ? hop.shadowed : [...hop.shadowed, ...others]
}

/** The outcome of packets from one kind of host to one address, also beyond a transit. */
export function outcomeAt(
  model: Model,
  subnet: SubnetModel,
  table: HopTable,
  address: Address,
  memo: HopMemo,
): Outcome | null {
  const ranges = table[familyOf(address)]
  const range = ranges[firstFrom(ranges, address)]
  if (range === undefined) return null
  const { hop, behind } = range
  return behind === null
    ? hop
    : expandRange(model, subnet, table.kind, { from: address, to: address, hop, behind }, memo)[0]!
        .outcome
}

/**
 * A key of all that routing asks of a kind of host except its addresses: hosts with the same key
 * share their outcomes.
 */
const routingKey = (model: Model, subnet: SubnetModel, kind: HostKind): string =>
  `${sendingKey(model, subnet, kind)} ${subnet.table} ${identity(subnet.learned)} ${identity(subnet.switched)} ${kind.tags.join(',')}`

/**
 * A key of all that routing asks of a kind of host except its addresses and its table: hosts with
 * the same key share their outcomes on the same way.
 */
export const sendingKey = (model: Model, subnet: SubnetModel, kind: HostKind): string =>
  `${senderKey(model, subnet)} ${kind.interfaces.length > 0 ? 'host' : 'free'} ${kind.hasPublicAddress} ${kind.range}`

/** A key of all that next hops ask of a subnet. */
const senderKey = (model: Model, subnet: SubnetModel): string =>
  `${subnet.network} ${subnet.region} ${zoneKey(model, subnet)}`

/** Which of the transits that ask for zones have one of the zone a subnet is in. */
function zoneKey(model: Model, subnet: SubnetModel): string {
  return transitZones(model, subnet.network)
    .map((zones) => (subnet.zone === null || zones.has(subnet.zone) ? 'y' : 'n'))
    .join('')
}

/** For each transit a network is attached to in several zones, those zones. */
const transitZones = derived((model: Model, network: number): readonly ReadonlySet<string>[] =>
  model.transits.flatMap((transit) => {
    const attachment = transit.source.attachments?.[transit.attachmentOf.get(network) ?? '']
    const zones = new Set(
      (attachment?.subnets ?? []).flatMap((id) => model.estate.subnets.get(id)?.zone ?? []),
    )
    return zones.size > 1 ? [zones] : []
  }),
)

/**
 * Puts the names of this subnet and host into a shared outcome, where its cause or an address is
 * theirs.
 */
function namesOf(model: Model, subnet: SubnetModel, kind: HostKind): HopTable['named'] {
  const name = (ref: string): string =>
    ref === OWN_SUBNET ? subnet.ref : ref === OWN_HOST ? kind.ref : ref
  const publicAddresses = lazy(() =>
    kind.interfaces
      .flatMap((index) => model.interfaces[index]!.publicAddress ?? [])
      .sort(compareAddresses)
      .map(formatAddress),
  )
  return (outcome) => {
    const { cause, seenAs } = outcome
    if (cause === null)
      return seenAs.includes(OWN_ADDRESS)
        ? {
            ...outcome,
            seenAs: seenAs.flatMap((one) => (one === OWN_ADDRESS ? publicAddresses() : one)),
          }
        : outcome
    if (
      name(cause.object) === cause.object &&
      (!cause.inner || name(cause.inner.object) === cause.inner.object)
    )
      return outcome
    const inner = cause.inner ? { inner: { ...cause.inner, object: name(cause.inner.object) } } : {}
    return { ...outcome, cause: { ...cause, object: name(cause.object), ...inner } }
  }
}

function withNames(ranges: readonly HopRange[], named: HopTable['named']): readonly HopRange[] {
  if (!ranges.some(({ hop }) => named(hop) !== hop)) return ranges
  const known = new Map<Hop, Hop>()
  return ranges.map((range): HopRange => {
    let hop = known.get(range.hop)
    if (!hop) known.set(range.hop, (hop = named(range.hop)))
    return hop === range.hop ? range : { ...range, hop }
  })
}

/** The only outcome of a subnet that is not up: nothing is sent. */
function lostAtHome(subnet: SubnetModel, family: Family): Sweep {
  const hop: Hop = {
    winners: [],
    shadowed: [],
    ways: [[]],
    leavesBy: null,
    seenAs: [],
    cause: { code: 'interface-not-up', object: subnet.ref },
    reaches: null,
  }
  const space = family === 4 ? { from: 0, to: 0xffffffff } : { from: 0n, to: (1n << 128n) - 1n }
  return { ranges: [{ ...space, hop, behind: null }], sources: space, individual: false }
}
