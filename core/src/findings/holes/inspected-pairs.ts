import { compareAddresses, familyOf, type Address, type Family } from '../../address/address'
import { firstFrom, type Range } from '../../address/ranges'
import { outcomeAt, type HopTable } from '../../hops/hops'
import type { Outcome } from '../../hops/outcome'
import type { HopRange } from '../../hops/sweep'
import { cached } from '../../incremental/cells'
import { derived, sameItems } from '../../incremental/derived'
import type { Grain } from '../../incremental/grain'
import type { Model } from '../../model/model'
import { presentOf } from '../../model/present'
import { unique, type Finding } from '../finding'
import {
  check,
  FAMILIES,
  firewallsOf,
  homes,
  modelOf,
  subnetsIn,
  subnetSpaceRanges,
  type CheckContext,
} from '../survey'
import { ask, ASKED_FOR, hasSeveralEndpoints, isOfAsker, type Side } from './ask-for-answers'

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
  const { model, memo } = survey
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
    for (const index of FAR_SUBNETS[memo.grain](survey, ranges, { outcome, own })) {
      if (index === near.subnet.index) continue
      const subnet = model.subnets[index]!
      for (const table of survey.tablesOf(subnet)) {
        const far = table.kind.sources[family]
        if (far !== null) checkPair(survey, out, looked, near, { subnet, table }, own, far)
      }
    }
  }
}

/** What leads to a far side, and the address that its answers come back to. */
interface There {
  readonly outcome: Outcome
  readonly own: Address
}

type FarSubnets = (survey: CheckContext, ranges: readonly Range[], there: There) => Iterable<number>

/**
 * The subnets in some ranges that have to be looked at one by one. By grain: those of whole
 * networks whose answers plainly come back as they went are left aside at once; a value that is
 * compared later looks at each, so as not to rest on the routing of all subnets.
 */
const FAR_SUBNETS: Record<Grain, FarSubnets> = {
  coarse: subnetsBesidePlain,
  fine: (survey, ranges) => subnetsIn(survey, ranges),
}

function* subnetsBesidePlain(
  survey: CheckContext,
  ranges: readonly Range[],
  there: There,
): Generator<number> {
  const all = homes(survey)
  const runs = runsOf(survey)
  const plain = new Map<Run, boolean>()
  const seen = new Set<number>()
  for (const range of ranges) {
    let at = firstFrom(all, range.from)
    while (at < all.length && compareAddresses(all[at]!.from, range.to) <= 0) {
      const run = runs[at]!
      if (cached(plain, run, () => comesBackPlainly(survey.model, there, run))) {
        at = run.end
        continue
      }
      const { subnet } = all[at++]!
      if (!seen.has(subnet)) yield subnet
      seen.add(subnet)
    }
  }
}

/** Neighbouring ranges of subnets whose hosts all have the same routing. */
interface Run {
  /** Null where hosts differ. */
  readonly routing: readonly HopRange[] | null
  /** The place behind its last range in the list of all. */
  end: number
}

const knownRuns = new WeakMap<CheckContext, readonly Run[]>()

/** The run that each range of a subnet is in, by its place in the list of all. */
const runsOf = (survey: CheckContext): readonly Run[] =>
  cached(knownRuns, survey, () => {
    let run: Run = { routing: null, end: 0 }
    return homes(survey).map(({ from, subnet }, at) => {
      const routings = survey
        .tablesOf(survey.model.subnets[subnet]!)
        .map(({ shared }) => shared[familyOf(from)])
      const routing = routings.every((one) => one === routings[0]) ? routings[0]! : null
      if (routing === null || routing !== run.routing) run = { routing, end: 0 }
      run.end = at + 1
      return run
    })
  })

const plainPairs = new WeakMap<Outcome, WeakMap<Outcome, boolean>>()

/**
 * One way in each direction, without translation, through the same firewalls: answers arrive. Ways
 * do not tell which endpoint of a firewall they pass, so where one has several it has to be asked.
 */
function isPlain(model: Model, there: Outcome | null, back: Outcome | null): boolean {
  if (there === null || back === null) return false
  let known = plainPairs.get(there)
  if (!known) plainPairs.set(there, (known = new WeakMap()))
  return cached(known, back, () => {
    const isWhole = there.cause === null && back.cause === null
    if (!isWhole || there.seenAs.length + back.seenAs.length > 0) return false
    if (there.ways.length !== 1 || back.ways.length !== 1) return false
    const guards = firewallsOf(there.ways)
    return (
      sameMembers(guards, firewallsOf(back.ways)) &&
      !guards.some((ref) => hasSeveralEndpoints(model, ref))
    )
  })
}

/** The same of all hosts of a run, where the way back does not lead beyond a transit. */
function comesBackPlainly(model: Model, { outcome, own }: There, { routing }: Run): boolean {
  const back = routing?.[firstFrom(routing, own)]
  return back?.behind === null && back.from <= own && isPlain(model, outcome, back.hop)
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
  if (isPlain(model, there, back)) return
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

const sameMembers = (a: readonly string[], b: readonly string[]): boolean =>
  a.length === b.length && a.every((one) => b.includes(one))

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
