import { derived } from '../../incremental/derived'
import type { Grain } from '../../incremental/grain'
import { familyOf, type Address, type Family } from '../../address/address'
import {
  partsWithin,
  rangeSet,
  rangesContain,
  sameRanges,
  type Range,
  type RangeSet,
} from '../../address/ranges'
import { walkFlow } from '../../flows/flow'
import { sendingKey, type HopMemo } from '../../hops/hops'
import { identity, type Outcome } from '../../hops/outcome'
import { memoStable, cached, lazy } from '../../incremental/cells'
import type { Model, SubnetModel } from '../../model/model'
import { TCP, type Packet } from '../../packet/packet'
import { allPackets } from '../../packet/packet-set'
import { passing } from '../../rules/passing'
import { ask, ASKED_FOR, hasSeveralEndpoints, isOfAsker, judge, type Side } from './ask-for-answers'
import { unique, type Finding } from '../finding'
import { homesThatReach, reachingFrom, sourcesIn } from '../reach'
import {
  checkSubnets,
  endOf,
  FAMILIES,
  modelOf,
  firewallsOf,
  passes,
  subnetSpaceRanges,
  type CheckContext,
} from '../survey'
import { idsOf, rangesOf } from '../../model/present'

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
 * Answers from the internet, from sites and from services. Routes settle most of it, for all hosts
 * of a kind at once.
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
    // A service that is reached by the sender's own network answers into it, or as the internet does.
    survey
      .meet(subnet, table, family, serviceRanges(model))
      .filter(({ outcome }) =>
        passes(outcome.ways, 'peerings', 'transits', 'firewalls', 'interfaces'),
      ),
  ].flat()
  for (const { outcome, ranges } of parts) {
    if (outcome.cause !== null) continue
    const dst = ranges[0]!.from
    if (!isSound(dst, outcome)) ask(survey, out, from, dst, null)
  }
}

/** The ranges of all services, asked for at once: their outcomes tell them apart. */
const serviceRanges = derived(
  (model: Model): RangeSet =>
    rangeSet(idsOf(model, 'services').flatMap((id) => rangesOf(model, 'services', id))),
  { same: sameRanges },
)

const probe = (src: Address, dst: Address): Packet => ({
  src,
  dst,
  protocol: TCP,
  srcPort: 50000,
  dstPort: 443,
})

/** The answers of a kind of host that are lost. */
interface Unanswered {
  readonly found: readonly Finding[]
  /** What loses them in the network of the one who asks, so that all who answer lose them alike. */
  readonly byAskers: ReadonlySet<string>
}

/**
 * Packets from a kind of host to some destinations are lost. A sender there whose packets reach it
 * gets no answer.
 */
const unansweredBy = derived(
  (survey: CheckContext, index: number, kind: number, family: Family): Unanswered => {
    const { model } = survey
    const subnet = model.subnets[index]!
    const table = survey.tablesOf(subnet)[kind]!
    const own = table.kind.sources[family]
    const found: Finding[] = []
    const byAskers = new Set<string>()
    if (own === null) return { found, byAskers }
    const near = { subnet, table }
    const taken = lazy(() => takenFrom(model, near, own))
    const neighbours = lazy(() => neighbourOf(survey, near, family)?.byAskers)
    const all = subnetSpaceRanges(model)
    for (const { outcome, ranges } of survey.meet(subnet, table, family, all, ASKED_FOR)) {
      if (outcome.cause === null) continue
      const { code, object } = outcome.cause
      const lost = { own, object, taken, ranges }
      // One host of each network that routes alike is enough to tell what the asker's side loses.
      const isTold = (): boolean => neighbours()?.has(`${code} ${object}`) ?? false
      const asker = findUnansweredSender(survey, found, near, lost, isTold)
      if (asker && isOfAsker(model, object, asker, subnet)) byAskers.add(`${code} ${object}`)
    }
    return { found, byAskers }
  },
  { on: modelOf },
)

/** What the first kind of host in the same network that has the same routing loses of its answers. */
function neighbourOf(
  survey: CheckContext,
  { subnet, table }: Side,
  family: Family,
): Unanswered | null {
  const { model } = survey
  for (const index of model.networks[subnet.network]!.subnets) {
    if (index >= subnet.index) return null
    const other = model.subnets[index]!
    const kind = other.up
      ? survey.tablesOf(other).findIndex((one) => one.shared[family] === table.shared[family])
      : -1
    if (kind >= 0) return unansweredBy(survey, index, kind, family)
  }
  return null
}

interface LostAnswers {
  readonly own: Address
  /** What loses them. */
  readonly object: string
  readonly taken: () => RangeSet
  readonly ranges: RangeSet
}

/**
 * Finds a sender in some ranges whose packets reach a host and are not answered, and reports it,
 * unless `isTold` says that this is known of all who answer it.
 */
function findUnansweredSender(
  survey: CheckContext,
  out: Finding[],
  near: Side,
  { own, object, taken, ranges }: LostAnswers,
  isTold: () => boolean,
): SubnetModel | null {
  const { model } = survey
  // Rules are evaluated before routes: they leave few ranges, and few senders in them, to evaluate
  // routes for.
  const letInFrom = taken().flatMap((span) => partsWithin(ranges, span))
  for (const { subnet: index } of homesThatReach(survey, own, letInFrom)) {
    if (index === near.subnet.index) continue
    const subnet = model.subnets[index]!
    if (isOfAsker(model, object, subnet, near.subnet) && isTold()) return null
    const letIn = sourcesIn(survey, index, familyOf(own)).flatMap((source, kind) =>
      source !== null && rangesContain(taken(), source) ? [kind] : [],
    )
    for (const kind of letIn.length === 0 ? [] : reachingFrom(survey, index, own)) {
      const table = survey.tablesOf(subnet)[kind]!
      if (letIn.includes(kind) && ask(survey, out, { subnet, table }, own, near.subnet))
        return subnet
    }
  }
  return null
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

/** Where answers from the internet and from sites are lost. */
export const checkAnswers = checkHosts((survey, out, near, family) =>
  fromOutside(survey, out, near, family),
)

/** Hosts that receive packets and have no way back to the sender. */
export const checkWaysBack = checkSubnets(
  'answers',
  (survey, subnet) =>
    subnet.up
      ? unique(
          survey
            .tablesOf(subnet)
            .flatMap((_, kind) =>
              FAMILIES.flatMap((family) => unansweredBy(survey, subnet.index, kind, family).found),
            ),
          true,
        )
      : [],
  { joinsRanges: true },
)
