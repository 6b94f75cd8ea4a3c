import { contextOf } from '../walk/context'
import { derived, sameItems } from '../incremental/derived'
import type { Grain } from '../incremental/grain'
import { compareAddresses, nextAddress, previousAddress, type Address } from '../address/address'
import { sortedOnce } from '../address/address-map'
import { sameRanges, firstFrom, rangeSetOf, type Range, type RangeSet } from '../address/ranges'
import { cached } from '../incremental/cells'
import type { Model } from '../model/model'
import { TCP } from '../packet/packet'
import { allPackets, boxWith } from '../packet/packet-set'
import { leavesByOf, wayOf } from '../trace/branch'
import { partingFor, resume, walkAbreast, type Parting } from '../walk/abreast'
import { startState } from '../walk/engine'
import { scopeOf } from '../walk/fields'
import { distinctWays, identity, intern, type Outcome } from './outcome'
import type { AtTransit, InNetwork, Next, State, Walked } from '../walk/state'

/** Destinations that share one outcome, with the sources for which they do. */
export interface OnwardRange extends Range {
  readonly sources: Range
  readonly outcome: Outcome
  /** In a loop, every place that packets passed; else null. */
  readonly passed: ReadonlySet<string> | null
  /**
   * Whether packets come back through the table they were sent by, and loop there or name their
   * sender: other senders may have another outcome.
   */
  readonly comesBack: boolean
  /**
   * The transit that the way leads to. Outcomes beyond it are computed on demand: they are cut
   * finely, and shared by all who reach it.
   */
  readonly behind: BeyondTransit | null
}

/** A transit that packets of one kind reach, with the way up to it. */
export interface BeyondTransit {
  readonly junction: TransitEntry
  /** A number shared by all ways up to this table of the transit that are the same. */
  readonly way: number
  /** The outcome so far: the way up to the transit, and as whom packets are seen there. */
  readonly before: Outcome
  /** Every place passed before the transit. */
  readonly places: readonly string[]
  /** Whether the packet still has its own source. */
  readonly own: boolean
}

export interface TransitEntry {
  readonly key: string
  readonly onset: StartingPoint
  readonly transit: number
  /**
   * The transit's table that packets are looked up in. All attachments with this table share the
   * outcomes beyond it.
   */
  readonly table: string | undefined
}

/** Caches of outcomes, by what they depend on. */
export interface OnwardMemo {
  /** How finely the values are cut. */
  readonly grain: Grain
  /** Each distinct outcome once, so that outcomes are compared by identity. */
  readonly outcomes: Map<string, Outcome>
  /** All outcomes beyond a transit, by its table. */
  readonly junctions: Map<string, readonly OnwardRange[]>
  /** The same, joined with the way up to the transit, as far as asked for. */
  readonly joined: Map<string, readonly OnwardRange[]>
  /** The destinations that may have a wanted outcome beyond a transit, by the way up to it. */
  readonly coming: Map<string, RangeSet>
  readonly behinds: Map<string, BeyondTransit>
  /** The numbers of ways up to transits, by the transit's table and the outcome so far. */
  readonly ways: Map<string, number>
  /** Outcomes of routes, by sender and next hop. */
  readonly routes: Map<string, OnwardRange[]>
}

/** Empty caches for the outcomes of one model. */
export const onwardMemo = (grain: Grain): OnwardMemo => ({
  grain,
  outcomes: new Map(),
  junctions: new Map(),
  joined: new Map(),
  coming: new Map(),
  behinds: new Map(),
  ways: new Map(),
  routes: new Map(),
})

/** The place that packets go on from, and the kind of host they stand for. */
export interface StartingPoint {
  readonly next: Next
  readonly source: Address
  readonly pendingNat: number
  /** The network of the kind of host that the source stands for. */
  readonly home: number
  /** The network that packets go on from; −1 for a transit. */
  readonly network: number
  /** The table that is looked up at this place, as `section/id`: a loop may begin there. */
  readonly at: string
  /**
   * The subnet and the host of the source. Causes that lie with them are stored without their
   * names, so that other senders can share the outcome.
   */
  readonly own: {
    readonly subnet: string
    readonly host: string
    readonly publicAddress: string | null
  } | null
}

/** Placeholders for the subnet and the host of the source in shared outcomes. */
export const OWN_SUBNET = 'own subnet'
export const OWN_HOST = 'own host'

/** Placeholder for the public address of the source in shared outcomes. */
export const OWN_ADDRESS = 'own public address'

/**
 * Where walks from one starting point to other destinations may go on from: those that pause at
 * transits, and those that do not.
 */
export interface Trails {
  readonly pausing: Parting[]
  readonly whole: Parting[]
}

export const newTrails = (): Trails => ({ pausing: [], whole: [] })

/**
 * The outcome of packets to `dst`, with the span of destinations around it that share the outcome.
 */
export function onwardAt(
  model: Model,
  memo: OnwardMemo,
  onset: StartingPoint,
  dst: Address,
  within: Range,
  pausing: boolean,
  trails: Trails = newTrails(),
): OnwardRange[] {
  const { walks, span, sources } = walkFrom(model, onset, dst, within, pausing, trails)
  const paused = walks.find((one) => one.deliveredAt?.in === 'transit')
  if (paused === undefined) {
    const passed = ringOf(walks)
    const returns = walks.some((one) =>
      one.state.stations.some((station) => station.at === onset.at),
    )
    // A subnet that packets come back through is passed, not sending: it keeps its own name.
    const named = returns ? null : onset.own
    const isOwn = returns && (passed !== null || namesSender(onset, outcomeOfWalks(walks)))
    return outcomesOf(model, memo, walks, span, named).map((part) => ({
      ...part,
      sources,
      passed,
      comesBack: isOwn,
      behind: null,
    }))
  }
  if (walks.length > 1) return onwardAt(model, memo, onset, dst, within, false, trails)
  const behind = behindOf(model, memo, paused)
  return [{ ...span, sources, outcome: behind.before, passed: null, comesBack: false, behind }]
}

/** Whether an outcome names the sender, its subnet or its public address. */
const namesSender = ({ own }: StartingPoint, { cause, seenAs }: Outcome): boolean =>
  own !== null &&
  (seenAs.includes(own.publicAddress ?? '') ||
    [cause?.object, cause?.inner?.object].some((ref) => ref === own.subnet || ref === own.host))

/** A whole span of destinations, cut by outcome. */
export function onward(
  model: Model,
  memo: OnwardMemo,
  onset: StartingPoint,
  within: Range,
): OnwardRange[] {
  const out: OnwardRange[] = []
  const trails = newTrails()
  for (let at: Address | null = within.from; at !== null && compareAddresses(at, within.to) <= 0;) {
    const rest = { from: at, to: within.to }
    const parts = onwardAt(model, memo, onset, at, rest, false, trails)
    for (const part of parts) addRange(out, part)
    at = nextAddress(parts.at(-1)!.to)
  }
  return out
}

/** Every place that walks passed, if one of them looped. */
const ringOf = (walks: readonly Walked[]): ReadonlySet<string> | null =>
  walks.some((one) => one.cause?.code === 'looped')
    ? new Set(walks.flatMap((one) => one.state.stations.map((station) => station.at)))
    : null

/** Appends a range to a list; a range with the outcome of the last one extends it. */
export function addRange(out: OnwardRange[], part: OnwardRange): void {
  const last = out.at(-1)
  if (
    last &&
    last.outcome === part.outcome &&
    last.behind === part.behind &&
    nextAddress(last.to) === part.from
  )
    out[out.length - 1] = {
      ...last,
      to: part.to,
      sources: meetSpans(last.sources, part.sources),
      passed: meetPlaces(last.passed, part.passed),
    }
  else out.push(part)
}

/** Whether two lists of ranges give the same outcomes for the same destinations. */
export const sameOnward = (a: readonly OnwardRange[], b: readonly OnwardRange[]): boolean =>
  a.length === b.length &&
  a.every((one, at) => {
    const other = b[at]!
    return (
      one.from === other.from &&
      one.to === other.to &&
      one.outcome === other.outcome &&
      one.behind === other.behind &&
      one.comesBack === other.comesBack &&
      one.sources.from === other.sources.from &&
      one.sources.to === other.sources.to &&
      (one.passed === other.passed ||
        (one.passed !== null && other.passed !== null && sameItems(one.passed, other.passed)))
    )
  })

const meetPlaces = (a: OnwardRange['passed'], b: OnwardRange['passed']): OnwardRange['passed'] =>
  a === null ? b : b === null ? a : new Set([...a, ...b])

/** The common part of two spans of sources, which always have one. */
export const meetSpans = (a: Range, b: Range): Range => ({
  from: a.from > b.from ? a.from : b.from,
  to: a.to < b.to ? a.to : b.to,
})

function walkFrom(
  model: Model,
  { next, source, pendingNat, home }: StartingPoint,
  dst: Address,
  within: Range,
  pausing: boolean,
  trails: Trails,
) {
  const trail = pausing ? trails.pausing : trails.whole
  const parting = partingFor(trail, dst)
  const all = allPackets(typeof dst === 'number' ? 4 : 6)
  const dstSpan = parting
    ? meetSpans(parting.box.dst, within)
    : { from: within.from, to: within.to }
  const scope = scopeOf(boxWith(parting?.box ?? all, { dst: dstSpan }))
  const context = contextOf({ model, about: 'routes', pausesAtTransits: pausing, home, scope })
  const packet = { src: source, dst, protocol: TCP, srcPort: 50000, dstPort: 443 }
  const start = (): State => ({ ...startState(packet, next), pendingNat })
  const resumed = parting && resume(context, parting, dst, trail)
  const walks = resumed ?? walkAbreast(context, start(), trail)
  return { walks, span: scope.box.dst, sources: scope.box.src }
}

function behindOf(model: Model, memo: OnwardMemo, { state, deliveredAt }: Walked): BeyondTransit {
  const { transit, attachment } = deliveredAt as AtTransit
  const { src, dst } = state.packet
  const own = state.fields.src === 'src'
  const table = model.transits[transit]!.source.attachments?.[attachment]?.table
  const key = `${transit} ${table} ${state.pendingNat} ${own ? 'own' : src} ${typeof dst === 'number' ? 4 : 6}`
  const before = intern(memo, {
    ways: [wayOf(state.stations)],
    leavesBy: state.leavesBy,
    seenAs: state.seenAs,
    cause: null,
    reaches: null,
  })
  const places = [...new Set(state.stations.map((station) => station.at))]
  const name = `${key}|${identity(before)}|${places.join()}`
  return cached(memo.behinds, name, (): BeyondTransit => {
    const onset: StartingPoint = {
      next: { at: 'transit', transit, attachment },
      source: src,
      pendingNat: state.pendingNat,
      home: -1,
      network:
        [...model.transits[transit]!.attachmentOf].find(([, one]) => one === attachment)?.[0] ?? -1,
      at: '',
      own: null,
    }
    const way = cached(memo.ways, `${key}|${identity(before)}`, () => memo.ways.size)
    return { junction: { key, onset, transit, table }, way, before, places, own }
  })
}

/** The outcomes of walks over a span, cut where a network has a subnet and where it has none. */
function outcomesOf(
  model: Model,
  memo: OnwardMemo,
  walks: readonly Walked[],
  span: Range,
  own: StartingPoint['own'],
): { from: Address; to: Address; outcome: Outcome }[] {
  const outcome = unnamed(outcomeOfWalks(walks), own)
  const local = walks.flatMap((one) => (one.deliveredAt?.in === 'network' ? [one.deliveredAt] : []))
  if (local.length === 0 || outcome.cause !== null)
    return [{ ...span, outcome: intern(memo, outcome) }]
  return homeCuts(model, local, span).map((part) => {
    const homeless = local.find(({ network }) => !hasRange(subnetRanges(model, network), part.from))
    if (!homeless) return { ...part, outcome: intern(memo, outcome) }
    const object =
      homeless.fromSubnet >= 0
        ? model.subnets[homeless.fromSubnet]!.ref
        : model.networks[homeless.network]!.ref
    return {
      ...part,
      outcome: intern(
        memo,
        unnamed({ ...outcome, seenAs: [], cause: { code: 'no-such-subnet', object } }, own),
      ),
    }
  })
}

/**
 * An outcome with a cause that is the sender's own written with placeholders, so that it fits other
 * senders.
 */
function unnamed(outcome: Outcome, own: StartingPoint['own']): Outcome {
  const { cause } = outcome
  if (own === null) return outcome
  if (cause === null)
    return {
      ...outcome,
      seenAs: outcome.seenAs.map((address) =>
        address === own.publicAddress ? OWN_ADDRESS : address,
      ),
    }
  // A host is to blame as the sender only for the address it lacks; as a next hop it is blamed by
  // its name.
  const name = ({
    code,
    object,
  }: {
    readonly code: string
    readonly object: string
  }): { readonly object: string } => {
    if (object === own.subnet && code !== 'interface-not-up') return { object: OWN_SUBNET }
    return { object: object === own.host && code === 'no-public-address' ? OWN_HOST : object }
  }
  const inner = cause.inner ? { inner: { ...cause.inner, ...name(cause.inner) } } : {}
  return { ...outcome, cause: { ...cause, ...name(cause), ...inner } }
}

const outcomes = new WeakMap<readonly Walked[], Outcome>()

const outcomeOfWalks = (walks: readonly Walked[]): Outcome =>
  cached(outcomes, walks, () => makeOutcome(walks))

function makeOutcome(walks: readonly Walked[]): Outcome {
  const first = walks.find((one) => one.cause !== null) ?? walks[0]!
  const { cause, deliveredAt } = first
  return {
    ways: distinctWays(walks.map((one) => wayOf(one.state.stations))),
    leavesBy: leavesByOf(first.state),
    seenAs: cause === null ? [...new Set(walks.flatMap((one) => one.state.seenAs))] : [],
    cause:
      cause === null
        ? null
        : {
            code: cause.code,
            object: cause.object,
            ...(cause.inner ? { inner: cause.inner } : {}),
          },
    reaches: deliveredAt?.in === 'outside' ? deliveredAt.ref : null,
  }
}

/** Every address of a network's subnets. */
export const subnetRanges = derived(
  (model: Model, network: number): RangeSet =>
    rangeSetOf(
      model.networks[network]!.subnets.flatMap((index) => model.subnets[index]!.allRanges),
    ),
  { same: sameRanges },
)

const hasRange = (set: RangeSet, address: Address): boolean => {
  const range = set[firstFrom(set, address)]
  return range !== undefined && compareAddresses(range.from, address) <= 0
}

function homeCuts(model: Model, local: readonly InNetwork[], { from, to }: Range): Range[] {
  const cuts: Address[] = [from]
  for (const { network } of local) {
    const set = subnetRanges(model, network)
    for (
      let at = firstFrom(set, from);
      at < set.length && compareAddresses(set[at]!.from, to) <= 0;
      at++
    ) {
      const range = set[at]!
      if (range.from > from) cuts.push(range.from)
      if (range.to < to) cuts.push(nextAddress(range.to)!)
    }
  }
  const starts = sortedOnce(cuts)
  return starts.map((start, index) => ({
    from: start,
    to: index + 1 < starts.length ? previousAddress(starts[index + 1]!)! : to,
  }))
}
