/**
 * Which packets a change can reach: for every sender the destinations that need to be walked in both
 * states. Everything beside them fares as before, because on its way there and back it meets nothing
 * that is touched and is led by the same effective next hops.
 *
 * A range of a subnet's destinations is reached where its effective next hop differs, or where its
 * way passes an element that is touched, before or after. It is reached for packets the subnet
 * sends, and for packets it answers: those that come from the range. Destinations that are lost by
 * routes alone in both states are left out, since nothing that works can become of them.
 */
import type { Family } from '../address/address'
import { hostPrefix } from '../address/prefix'
import {
  intersectRanges,
  rangesContain,
  rangeSet,
  rangeSetOf,
  type Range,
  type RangeSet,
} from '../address/ranges'
import { differingRanges } from '../compare/ways'
import { hopMemo, hopsOf, outcomeAt, type HopMemo, type HopTable } from '../hops/hops'
import { expandHops, type HopRange } from '../hops/sweep'
import type { Outcome } from '../hops/onward'
import type { Via } from '../format/estate'
import type { Model, SubnetModel } from '../model/model'
import { targetOf, targetRef } from '../model/targets'
import { addressesOf } from '../ways-in/ways-in'
import { destinationsAskedBy, pairSenders } from './ends'
import { allCandidates, type Candidates } from './packets'
import type { Pair, PairedSender } from './ends'
import { publishedBy, translatorAddresses } from './published'
import { touchedAddresses, touchedBy, touchGateway, type Touched } from './touched'
import { elementsAt, elementsIn } from './located'

/** Next hops of both states, kept by whoever has them. */
export interface PairMemo {
  readonly before: HopMemo
  readonly after: HopMemo
}

/** A kind of host of a subnet in both states: the hosts are its interfaces, by id. */
interface PairedKind {
  readonly subnet: { readonly before: SubnetModel; readonly after: SubnetModel }
  readonly table: { readonly before: HopTable; readonly after: HopTable }
  readonly hosts: readonly string[]
  /** Destinations the change reaches. */
  readonly reached: RangeSet
}

const EVERYWHERE: RangeSet = [
  { from: 0, to: 0xffffffff },
  { from: 0n, to: (1n << 128n) - 1n },
]

/** The candidates of a change. Costs the next hops of all subnets in both states. */
export function candidatesOf(
  pair: Pair,
  memo: PairMemo = { before: hopMemo(), after: hopMemo() },
): Candidates {
  const touched = touchedBy(pair)
  if (touched.everything) return allCandidates(pair)
  const kinds = reachedKinds(pair, touched, memo)
  touchPublished(pair, touched, kinds)
  const asks = destinationsAskedBy(pair)
  const always = touchedAddresses(touched)
  const senders = pairSenders(pair)
  const byName = new Map(senders.map((sender) => [sender.name, sender] as const))
  const wanted = new Map<PairedSender, Range[]>(senders.map((one) => [one, [...always]]))
  const forHost = (id: string, ranges: RangeSet): void => {
    const sender = byName.get(`interface:${id}`)
    if (sender) wanted.get(sender)!.push(...ranges)
  }
  for (const id of touched.hosts) forHost(id, EVERYWHERE)
  for (const sender of senders)
    if (sender.before === null || sender.after === null) wanted.get(sender)!.push(...EVERYWHERE)
  for (const kind of kinds)
    if (kind.reached.length > 0) for (const id of kind.hosts) forHost(id, kind.reached)
  addSites(pair, touched, kinds, senders, wanted)
  addAnswers(pair, kinds, senders, wanted, memo)
  const lost = lostByRoutes(kinds, memo, pair)
  const out = new Map<PairedSender, RangeSet>()
  for (const [sender, ranges] of wanted) {
    const asked = lost(sender, intersectRanges(rangeSet(ranges), asks(sender)))
    if (asked.length > 0) out.set(sender, asked)
  }
  return out
}

/** Every kind of host that is in both states, with the destinations that are reached. */
function reachedKinds(pair: Pair, touched: Touched, memo: PairMemo): PairedKind[] {
  const kinds: PairedKind[] = []
  for (const after of pair.after.subnets) {
    const before = pair.before.subnets[pair.before.index.subnets.get(after.id) ?? -1]
    if (!before || !pair.after.index.subnets.has(after.id)) continue
    const subnet = { before, after }
    const olds = hopsOf(pair.before, before, memo.before)
    for (const table of hopsOf(pair.after, after, memo.after)) {
      const ids = (model: Model, one: HopTable): string[] =>
        one.kind.interfaces.map((index) => model.interfaces[index]!.id)
      const hosts = ids(pair.after, table)
      for (const old of olds) {
        const own = new Set(ids(pair.before, old))
        const common = hosts.filter((id) => own.has(id))
        // Where a subnet has no hosts, its kind stands for what else sends from there.
        if (common.length === 0 && (hosts.length > 0 || own.size > 0)) continue
        const both = { before: old, after: table }
        const reached = rerouted(pair, memo, subnet, both)
        kinds.push({ subnet, table: both, hosts: common, reached })
      }
    }
  }
  touchIngress(pair, touched, reachedBySubnet(kinds))
  const met = kinds.map((kind) => withTouched(pair, touched, memo, kind))
  return withTranslators(pair, memo, met)
}

/** The destinations whose effective next hop differs. */
function rerouted(
  pair: Pair,
  memo: PairMemo,
  subnet: PairedKind['subnet'],
  table: PairedKind['table'],
): RangeSet {
  const out: Range[] = []
  for (const family of [4, 6] as const)
    out.push(
      ...differingRanges(
        expanded(pair.before, subnet.before, table.before, family, memo.before),
        expanded(pair.after, subnet.after, table.after, family, memo.after),
      ),
    )
  return rangeSet(out)
}

/** With the destinations whose way meets something touched, or goes out by doors that are. */
function withTouched(pair: Pair, touched: Touched, memo: PairMemo, kind: PairedKind): PairedKind {
  const network = pair.after.networks[kind.subnet.after.network]?.id ?? ''
  const isAtDoor = touched.doors.has(network)
  if (touched.elements.size === 0 && touched.sites.size === 0 && !isAtDoor) return kind
  const more = rangesWhere(
    pair,
    memo,
    kind,
    (hop) => meets(touched, hop) || (isAtDoor && hop.seenAs.length > 0),
  )
  return more.length === 0 ? kind : { ...kind, reached: rangeSet([...kind.reached, ...more]) }
}

/** The destinations of a kind of host whose outcome, before or after, is of some sort. */
function rangesWhere(
  pair: Pair,
  memo: PairMemo,
  { subnet, table }: PairedKind,
  is: (hop: Outcome) => boolean,
): Range[] {
  const out: Range[] = []
  for (const family of [4, 6] as const)
    for (const side of ['before', 'after'] as const)
      for (const { from, to, hop } of expanded(
        pair[side],
        subnet[side],
        table[side],
        family,
        memo[side],
      ))
        if (is(hop)) out.push({ from, to })
  return out
}

/** A gateway whose own table leads to what is touched, or to subnets that route otherwise. */
function touchIngress(pair: Pair, touched: Touched, bySubnet: ReadonlyMap<string, RangeSet>): void {
  for (const model of [pair.before, pair.after]) {
    const standing = [...bySubnet.keys()].flatMap((id) => {
      const index = model.index.subnets.get(id)
      return index === undefined ? [] : elementsIn(model, index)
    })
    const elements = new Set([...touched.elements, ...standing])
    for (const gateway of model.gateways) {
      const targets = model.tables[gateway.table]?.source.routes ?? []
      if (targets.some(({ via }) => leadsTo(model, gateway.network, via, elements)))
        touchGateway(model, touched, gateway.index)
    }
  }
}

/** Whether a written next hop is one of some elements, or an address of one. */
function leadsTo(model: Model, network: number, via: Via, elements: ReadonlySet<string>): boolean {
  const target = targetOf(model.index, via)
  const ref = targetRef(target)
  if (ref !== null) return elements.has(ref)
  if (target.kind !== 'address') return false
  const owner = model.networks[network]?.owners.get(target.address)
  return (
    owner?.kind === 'interface' && elementsAt(model, owner.index).some((one) => elements.has(one))
  )
}

const expanded = (
  model: Model,
  subnet: SubnetModel,
  table: HopTable,
  family: Family,
  memo: HopMemo,
): readonly HopRange[] => expandHops(model, subnet, table.kind, table[family], memo)

/** Whether a way passes something touched, or is lost at it. */
const meets = ({ elements, sites }: Touched, { ways, cause, reaches }: Outcome): boolean =>
  ways.some((way) => way.some((ref) => elements.has(ref))) ||
  (cause !== null && (elements.has(cause.object) || isSite(sites, cause.object))) ||
  (reaches !== null && isSite(sites, reaches))

const isSite = (sites: ReadonlySet<string>, ref: string): boolean =>
  ref.startsWith('sites/') && sites.has(ref.slice('sites/'.length))

/**
 * An answer that a translator turns back goes on from the translator's own subnet. Where next hops
 * from there to a sender differ, all that the sender sends by way of the translator is reached.
 */
function withTranslators(pair: Pair, memo: PairMemo, kinds: readonly PairedKind[]): PairedKind[] {
  const back = new Map<string, RangeSet>()
  const bySubnet = reachedBySubnet(kinds)
  for (const model of [pair.before, pair.after]) {
    const add = (ref: string, subnet: number): void => {
      const reached = bySubnet.get(model.subnets[subnet]?.id ?? '')
      if (reached) back.set(ref, rangeSet([...(back.get(ref) ?? []), ...reached]))
    }
    for (const nat of model.nats) add(nat.ref, nat.subnet)
    for (const { ref, interfaces } of model.firewalls)
      for (const side of interfaces) add(ref, model.interfaces[side.interface]!.subnet)
  }
  if (back.size === 0) return [...kinds]
  return kinds.map((kind): PairedKind => {
    const sources = sourcesOf(pair, kind)
    const touching = new Set(
      [...back].flatMap(([ref, set]) =>
        sources.some((one) => rangesContain(set, one)) ? ref : [],
      ),
    )
    if (touching.size === 0) return kind
    const more = rangesWhere(pair, memo, kind, ({ ways }) =>
      ways.some((way) => way.some((ref) => touching.has(ref))),
    )
    return { ...kind, reached: rangeSet([...kind.reached, ...more]) }
  })
}

const sourcesOf = (pair: Pair, { hosts }: PairedKind) =>
  hosts.flatMap((id) => pair.after.interfaces[pair.after.index.interfaces.get(id)!]!.addresses)

/** By the id of a subnet, what is reached from any kind of host there; empty ones are left out. */
function reachedBySubnet(kinds: readonly PairedKind[]): ReadonlyMap<string, RangeSet> {
  const out = new Map<string, RangeSet>()
  for (const { subnet, reached } of kinds) {
    if (reached.length === 0) continue
    const known = out.get(subnet.after.id)
    out.set(subnet.after.id, known ? rangeSet([...known, ...reached]) : reached)
  }
  return out
}

/**
 * What frontends and translating firewalls publish is a destination whose way goes on from where
 * they stand: reached where the way from there to what they lead to is, or the answer back.
 */
function touchPublished(pair: Pair, touched: Touched, kinds: readonly PairedKind[]): void {
  const bySubnet = reachedBySubnet(kinds)
  for (const model of [pair.before, pair.after])
    for (const { subnets, targets, addresses } of publishedBy(model)) {
      const from = subnets.flatMap((id) => bySubnet.get(id) ?? [])
      const isReached = targets.some((index) => {
        const one = model.interfaces[index]!
        const back = bySubnet.get(model.subnets[one.subnet]?.id ?? '') ?? []
        return (
          touched.hosts.has(one.id) ||
          one.addresses.some((address) => rangesContain(rangeSet(from), address)) ||
          addresses.some(({ from: own }) => rangesContain(back, own))
        )
      })
      if (isReached) touched.addresses.push(...addresses)
    }
}

/**
 * What sites send and answer: all of a site that is touched; of others, what comes into a network by
 * a transit and goes on from a subnet it is attached to.
 */
function addSites(
  pair: Pair,
  touched: Touched,
  kinds: readonly PairedKind[],
  senders: readonly PairedSender[],
  wanted: Map<PairedSender, Range[]>,
): void {
  const bySubnet = reachedBySubnet(kinds)
  const beyond: Range[] = []
  for (const model of [pair.before, pair.after])
    for (const transit of model.transits)
      for (const { subnets } of Object.values(transit.source.attachments ?? {}))
        for (const id of subnets ?? []) beyond.push(...(bySubnet.get(id) ?? []))
  const answered: Range[] = []
  for (const sender of senders) {
    if (!sender.name.startsWith('site:')) continue
    const whole = touched.sites.has(sender.name.slice('site:'.length))
    if (whole || beyond.length > 0) answered.push(...allAddresses(sender))
    wanted.get(sender)!.push(...(whole ? EVERYWHERE : beyond))
  }
  if (answered.length > 0) for (const ranges of wanted.values()) ranges.push(...answered)
}

const allAddresses = ({ both, onlyBefore, onlyAfter }: PairedSender): readonly Range[] => [
  ...both,
  ...onlyBefore,
  ...onlyAfter,
]

/** Packets whose answers are reached: from a reached range to the hosts that answer there. */
function addAnswers(
  pair: Pair,
  kinds: readonly PairedKind[],
  senders: readonly PairedSender[],
  wanted: Map<PairedSender, Range[]>,
  memo: PairMemo,
): void {
  const translators = rangeSet([
    ...translatorAddresses(pair.before),
    ...translatorAddresses(pair.after),
  ])
  const kindOf = new Map(kinds.flatMap((kind) => kind.hosts.map((id) => [id, kind] as const)))
  for (const { hosts, reached } of kinds) {
    if (reached.length === 0 || hosts.length === 0) continue
    const own = rangeSetOf(hosts.flatMap((id) => asAsked(pair, id)).map(hostPrefix))
    const translated = intersectRanges(reached, translators).length > 0
    for (const sender of senders) {
      const { both, onlyBefore, onlyAfter } = sender
      const meets = [both, onlyBefore, onlyAfter].some(
        (set) => intersectRanges(set, reached).length > 0,
      )
      if (meets || (translated && isTranslated(pair, memo, kindOf, sender, own)))
        wanted.get(sender)!.push(...own)
    }
  }
}

/** Every address by which a host may be asked, in either state. */
function asAsked({ before, after }: Pair, id: string) {
  return [before, after].flatMap((model) => {
    const index = model.index.interfaces.get(id)
    return index === undefined ? [] : addressesOf(model, index)
  })
}

/** Whether a sender's packets to some addresses may be translated on the way. */
function isTranslated(
  pair: Pair,
  memo: PairMemo,
  kindOf: ReadonlyMap<string, PairedKind>,
  { name }: PairedSender,
  to: RangeSet,
): boolean {
  if (!name.startsWith('interface:')) return false
  const kind = kindOf.get(name.slice('interface:'.length))
  if (!kind) return true
  return (['before', 'after'] as const).some((side) =>
    to.some(({ from }) => {
      const there = outcomeAt(pair[side], kind.subnet[side], kind.table[side], from, memo[side])
      return there !== null && (there.seenAs.length > 0 || there.ways.length > 1)
    }),
  )
}

/** Leaves out what a sender's packets to are lost for want of a route in both states. */
function lostByRoutes(
  kinds: readonly PairedKind[],
  memo: PairMemo,
  pair: Pair,
): (sender: PairedSender, ranges: RangeSet) => RangeSet {
  const kindOf = new Map(kinds.flatMap((kind) => kind.hosts.map((id) => [id, kind] as const)))
  const known = new Map<PairedKind, RangeSet>()
  const reaching = (kind: PairedKind): RangeSet => {
    let set = known.get(kind)
    if (!set) {
      // Of several branches, some may work though one is lost.
      const ranges = rangesWhere(
        pair,
        memo,
        kind,
        ({ cause, ways }) => cause === null || ways.length > 1,
      )
      known.set(kind, (set = rangeSet(ranges)))
    }
    return set
  }
  return (sender, ranges) => {
    if (!sender.name.startsWith('interface:') || ranges.length === 0) return ranges
    const kind = kindOf.get(sender.name.slice('interface:'.length))
    return kind && hasOneAddress(sender) ? intersectRanges(ranges, reaching(kind)) : ranges
  }
}

/** Next hops are those of a host's first address of a family; another may fare otherwise. */
const hasOneAddress = ({ both, onlyBefore, onlyAfter }: PairedSender): boolean =>
  onlyBefore.length + onlyAfter.length === 0 &&
  both.every(({ from, to }) => from === to) &&
  both.filter(({ from }) => typeof from === 'number').length <= 1 &&
  both.filter(({ from }) => typeof from === 'bigint').length <= 1
