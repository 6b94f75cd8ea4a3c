import { derived, sameItems } from '../../incremental/derived'
import type { Grain } from '../../incremental/grain'
import { familyOf, type Address, type Family } from '../../address/address'
import {
  partsWithin,
  rangeSet,
  rangesContain,
  type Range,
  type RangeSet,
} from '../../address/ranges'
import { walkFlow } from '../../flows/flow'
import type { Wanted } from '../../hops/behind'
import { outcomeAt, sendingKey, type HopMemo, type HopTable } from '../../hops/hops'
import { identity, type Outcome } from '../../hops/outcome'
import { memoStable, cached, lazy } from '../../incremental/cells'
import type { Model } from '../../model/model'
import { TCP, type Packet } from '../../packet/packet'
import { allPackets } from '../../packet/packet-set'
import { passing } from '../../rules/passing'
import { ask, isOfAsker, judge, type Side } from './ask-for-answers'
import { unique, type Finding } from '../finding'
import { homesThatReach, reachingFrom, sourcesIn } from '../reach'
import {
  modelOf,
  check,
  checkSubnets,
  endOf,
  FAMILIES,
  firewallsOf,
  nameOf,
  passes,
  subnetsIn,
  subnetSpaceRanges,
  type CheckContext,
} from '../survey'
import { idsOf, presentOf, rangesOf } from '../../model/present'

type Look = (survey: CheckContext, out: Finding[], near: Side, family: Family) => void

/** A check of every kind of host of every subnet. */
const checkHosts = (look: Look) =>
  checkSubnets(
    'answers',
    (survey, subnet) => {
      if (!subnet.up) return []
      const out: Finding[] = []
      for (const table of survey.tablesOf(subnet))
        for (const family of FAMILIES) look(survey, out, { subnet, table }, family)
      return unique(out, true)
    },
    { joinsRanges: true },
  )

/**
 * Flows with a firewall or a NAT on the way: their answers may miss the state there, or go
 * uninspected.
 */
export const checkInspection = check(
  'answers',
  (survey) =>
    presentOf(survey.model, 'networks').flatMap((network) => [...kinds(survey, network).keys()]),
  (survey, kind) => {
    const out: Finding[] = []
    const looked = new Set<string>()
    for (const near of sidesOf(survey, kind)) {
      if (near.subnet.up) for (const family of FAMILIES) lookedAt(survey, out, looked, near, family)
    }
    return unique(out, true)
  },
  { joinsRanges: true },
)

/** Whether the answers to some sources come back. */
interface Soundness {
  readonly sources: Range
  readonly sound: boolean
}

type IsSound = (
  memo: HopMemo,
  way: string,
  from: Side,
  source: Address,
  find: () => Soundness,
) => boolean

/** What is known of answers, by way and by host; released with the memo of next hops. */
interface KnownSoundness {
  readonly byWay: Map<string, Soundness[]>
  readonly byHost: Map<string, boolean>
}

const knownSoundness = new WeakMap<HopMemo, KnownSoundness>()

function soundnessOf(memo: HopMemo): KnownSoundness {
  let known = knownSoundness.get(memo)
  if (!known) knownSoundness.set(memo, (known = { byWay: new Map(), byHost: new Map() }))
  return known
}

/**
 * By grain: one answer for all sources of a way that share it, or each host evaluated on its own,
 * since a value that is compared later must not rest on another host's packet.
 */
const IS_SOUND: Record<Grain, IsSound> = {
  coarse: (memo, way, _, source, find) => {
    const known = cached(soundnessOf(memo).byWay, way, (): Soundness[] => [])
    const found = known.find(({ sources }) => sources.from <= source && source <= sources.to)
    if (found) return found.sound
    const made = find()
    known.push(made)
    return made.sound
  },
  fine: (memo, way, { table: { kind } }, source, find) =>
    memoStable(
      soundnessOf(memo).byHost,
      `${way} ${source} ${kind.place.subnet} ${kind.place.interface}`,
      () => find().sound,
      Object.is,
    ),
}

/**
 * Answers from the internet and from sites. Routes settle most of it, for all hosts of a kind at
 * once.
 */
function fromOutside(survey: CheckContext, out: Finding[], from: Side, family: Family): void {
  const { model, memo } = survey
  const { subnet, table } = from
  const src = table.kind.sources[family]
  if (src === null) return
  const fares = (dst: Address): Soundness => {
    const flow = walkFlow(model, endOf(table), probe(src, dst), allPackets(family), true, {
      ignoresRules: true,
      home: subnet.network,
    })
    return {
      sources: flow.box.src,
      sound: flow.branches.every((branch) => judge(branch).length === 0),
    }
  }
  const isSound = (dst: Address, outcome: Outcome): boolean => {
    // Answers to flows that leave by the same way come back by the same way, whichever table led
    // there.
    const byEndpoint = firewallsOf(outcome.ways).some((ref) => hasSeveralEndpoints(model, ref))
      ? subnet.ref
      : ''
    const key = `${sendingKey(model, subnet, table.kind)} ${identity(outcome)} ${dst} ${byEndpoint}`
    return IS_SOUND[memo.grain](memo, key, from, src, () => fares(dst))
  }
  const sites = idsOf(model, 'sites').map((id) => rangesOf(model, 'sites', id))
  const parts = [
    survey.toInternet(subnet, table, family),
    ...sites.map((own) => survey.meet(subnet, table, family, own)),
  ].flat()
  for (const { outcome, ranges } of parts) {
    if (outcome.cause !== null) continue
    const dst = ranges[0]!.from
    if (!isSound(dst, outcome)) ask(survey, out, from, dst, null)
  }
}

const probe = (src: Address, dst: Address): Packet => ({
  src,
  dst,
  protocol: TCP,
  srcPort: 50000,
  dstPort: 443,
})

/** Outcomes after which answers may be lost or go another way. */
const ASKED_FOR: Wanted = {
  name: 'lost or looked at',
  has: ({ cause, ways }) => cause !== null || passes(ways, 'firewalls', 'nats'),
}

/**
 * Packets from this subnet to some destinations are lost. A sender there whose packets reach this
 * subnet gets no answer.
 */
function withoutWayBack(survey: CheckContext, out: Finding[], near: Side, family: Family): void {
  const { model } = survey
  const own = near.table.kind.sources[family]
  if (own === null) return
  const taken = lazy(() => takenFrom(model, near, own))
  for (const { outcome, ranges } of survey.meet(
    near.subnet,
    near.table,
    family,
    subnetSpaceRanges(model),
    ASKED_FOR,
  )) {
    if (outcome.cause !== null) findUnansweredSender(survey, out, near, own, taken, ranges)
  }
}

/**
 * Packets from this subnet pass a firewall or a NAT: pairs of hosts are checked in both directions.
 */
function lookedAt(
  survey: CheckContext,
  out: Finding[],
  looked: Set<string>,
  near: Side,
  family: Family,
): void {
  const { model } = survey
  const own = near.table.kind.sources[family]
  if (own === null) return
  for (const { outcome, ranges } of survey.meet(
    near.subnet,
    near.table,
    family,
    subnetSpaceRanges(model),
    ASKED_FOR,
  )) {
    if (outcome.cause !== null) continue
    for (const index of subnetsIn(survey, ranges)) {
      if (index === near.subnet.index) continue
      const subnet = model.subnets[index]!
      for (const table of survey.tablesOf(subnet)) {
        const far = table.kind.sources[family]
        if (far !== null) checkPair(survey, out, looked, near, { subnet, table }, own, far)
      }
    }
  }
}

/**
 * Checks two kinds of host in both directions, with a firewall or a NAT on the way from the first
 * to the second.
 */
function checkPair(
  survey: CheckContext,
  out: Finding[],
  looked: Set<string>,
  near: Side,
  far: Side,
  own: Address,
  other: Address,
): void {
  const { model, memo } = survey
  const key = `${classOf(model, far)} ${familyOf(own)}`
  if (looked.has(key)) return
  looked.add(key)
  const there = outcomeAt(model, near.subnet, near.table, other, memo)
  const back = outcomeAt(model, far.subnet, far.table, own, memo)
  // One way in each direction, no translation, the same firewalls: answers arrive. Ways do not
  // tell which endpoint of a firewall they pass, so one with several has to be asked.
  const plain =
    there?.cause === null && back?.cause === null && there.seenAs.length + back.seenAs.length === 0
  const sameWays =
    plain &&
    there.ways.length === 1 &&
    back.ways.length === 1 &&
    sameMembers(firewallsOf(there.ways), firewallsOf(back.ways))
  if (sameWays && !firewallsOf(there.ways).some((ref) => hasSeveralEndpoints(model, ref))) return
  askOnce(survey, out, looked, near, far, { address: other, back })
  // The far side asks for these answers itself, where they are lost for all who answer it.
  const isAskedThere =
    back?.cause === null &&
    there?.cause != null &&
    ASKED_FOR.has(back) &&
    isOfAsker(model, there.cause.object, far.subnet, near.subnet)
  if (back?.cause === null && !isAskedThere) ask(survey, out, far, own, near.subnet)
}

/**
 * Asks whether answers from the far side reach a host. Where an object of the host's own network
 * loses them, they are lost whoever answers, so the host is asked once for each such object.
 */
function askOnce(
  survey: CheckContext,
  out: Finding[],
  looked: Set<string>,
  near: Side,
  far: Side,
  to: { readonly address: Address; readonly back: Outcome | null },
): void {
  const lost = to.back?.cause
  if (lost == null) {
    ask(survey, out, near, to.address, far.subnet)
    return
  }
  // What the far side loses by itself is found where its own ways back are looked at.
  if (!isOfAsker(survey.model, lost.object, near.subnet, far.subnet)) return
  const key = `${near.subnet.ref} ${near.table.kind.ref} ${lost.code} ${lost.object}`
  if (looked.has(key)) return
  if (ask(survey, out, near, to.address, far.subnet)) looked.add(key)
}

function hasSeveralEndpoints(model: Model, ref: string): boolean {
  const source = model.firewalls[model.index.firewalls.get(nameOf(ref)) ?? -1]?.source
  return source?.style === 'inline' && Object.keys(source.endpoints ?? {}).length > 1
}

const sameMembers = (a: readonly string[], b: readonly string[]): boolean =>
  a.length === b.length && a.every((one) => b.includes(one))

/**
 * Finds a sender in some ranges whose packets reach a host and are not answered, and reports it.
 */
function findUnansweredSender(
  survey: CheckContext,
  out: Finding[],
  near: Side,
  own: Address,
  taken: () => RangeSet,
  ranges: RangeSet,
): void {
  const { model } = survey
  // Rules are evaluated before routes: they leave few ranges, and few senders in them, to evaluate
  // routes for.
  const letInFrom = taken().flatMap((span) => partsWithin(ranges, span))
  for (const { subnet: index } of homesThatReach(survey, own, letInFrom)) {
    if (index === near.subnet.index) continue
    const letIn = sourcesIn(survey, index, familyOf(own)).flatMap((source, kind) =>
      source !== null && rangesContain(taken(), source) ? [kind] : [],
    )
    for (const kind of letIn.length === 0 ? [] : reachingFrom(survey, index, own)) {
      const subnet = model.subnets[index]!
      const table = survey.tablesOf(subnet)[kind]!
      if (letIn.includes(kind) && ask(survey, out, { subnet, table }, own, near.subnet)) return
    }
  }
}

/** The sources that the rules of a host let in. */
function takenFrom(model: Model, { table }: Side, own: Address): RangeSet {
  const all = { ...allPackets(familyOf(own)), dst: { from: own, to: own } }
  return rangeSet(
    passing(model, { direction: 'in', place: table.kind.place, crosses: false }, [all]).map(
      (box) => box.src,
    ),
  )
}

const classes = new WeakMap<Model, WeakMap<HopTable, string>>()

/** A key of all that tells kinds of host apart here: their route table and their rules. */
function classOf(model: Model, side: Side): string {
  let known = classes.get(model)
  if (!known) classes.set(model, (known = new WeakMap()))
  return cached(known, side.table, () => classKey(model, side))
}

function classKey(model: Model, { subnet, table }: Side): string {
  const [first] = table.kind.interfaces
  const one = first === undefined ? undefined : model.interfaces[first]
  return `${subnet.network} ${subnet.table} ${subnet.zone} ${subnet.boundary} ${subnet.ruleSets.join()}|${one?.ruleSets.join() ?? '-'} ${one?.localRules ?? -1} ${table.kind.hasPublicAddress} ${table.kind.tags.join()}`
}

/** Where answers from the internet and from sites are lost. */
export const checkAnswers = checkHosts((survey, out, near, family) =>
  fromOutside(survey, out, near, family),
)

/** Hosts that receive packets and have no way back to the sender. */
export const checkWaysBack = checkHosts((survey, out, near, family) =>
  withoutWayBack(survey, out, near, family),
)

/** A kind of host by the number of its subnet and its place there. */
type Placed = readonly [subnet: number, kind: number]

const samePlaces = (a: readonly Placed[], b: readonly Placed[]): boolean =>
  a.length === b.length &&
  a.every(([subnet, at], index) => b[index]![0] === subnet && b[index]![1] === at)

/** Every kind of host in a network, by its key. */
const kinds = derived(
  (survey: CheckContext, network: number): ReadonlyMap<string, readonly Placed[]> => {
    const found = new Map<string, Placed[]>()
    for (const index of survey.model.networks[network]!.subnets) {
      const subnet = survey.model.subnets[index]!
      for (const [at, table] of survey.tablesOf(subnet).entries()) {
        const key = classOf(survey.model, { subnet, table })
        const list = found.get(key)
        if (list) list.push([subnet.index, at])
        else found.set(key, [[subnet.index, at]])
      }
    }
    return found
  },
  {
    same: (a, b) =>
      sameItems(a.keys(), b.keys()) && [...a].every(([key, list]) => samePlaces(list, b.get(key)!)),
    on: modelOf,
  },
)

const placesOf = derived(
  (survey: CheckContext, kind: string): readonly Placed[] =>
    kinds(survey, Number.parseInt(kind)).get(kind) ?? [],
  { same: samePlaces, on: modelOf },
)

/** The hosts of one kind, each with its subnet; the name of a kind begins with its network. */
function sidesOf(survey: CheckContext, kind: string): Side[] {
  const { model } = survey
  return placesOf(survey, kind).flatMap(([index, at]) => {
    const subnet = model.subnets[index]!
    const table = survey.tablesOf(subnet)[at]
    return table ? [{ subnet, table }] : []
  })
}
