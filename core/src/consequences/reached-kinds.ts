import { familyOf } from '../address/address'
import { rangesContain, rangeSet, type Range, type RangeSet } from '../address/ranges'
import { differingRanges, ofSort, type PairWays, type SortOfWays } from '../compare/ways'
import type { Via } from '../format/estate'
import type { Outcome } from '../hops/outcome'
import type { KindWays } from '../hops/ways'
import type { Model, SubnetModel } from '../model/model'
import { targetOf, targetRef } from '../model/targets'
import type { Pair } from './ends'
import { elementsAt, elementsIn } from './located'
import { touchGateway, type Touched } from './touched'

/** A kind of host of a subnet in both states: the hosts are its interfaces, by id. */
export interface PairedKind {
  readonly subnet: { readonly before: SubnetModel; readonly after: SubnetModel }
  readonly ways: { readonly before: KindWays; readonly after: KindWays }
  readonly hosts: readonly string[]
  /** Destinations the change reaches. */
  readonly reached: RangeSet
  /** Its place among the kinds of its subnet, where both states have the same; else null. */
  readonly at: number | null
}

export const EVERYWHERE: RangeSet = [
  { from: 0, to: 0xffffffff },
  { from: 0n, to: (1n << 128n) - 1n },
]

/**
 * Every kind of host that is in both states, with the destinations that are reached. Costs a step
 * for each subnet, and for each range of those whose routing may differ.
 */
export function reachedKinds(pair: Pair, touched: Touched, ways: PairWays): PairedKind[] {
  const kinds: PairedKind[] = []
  for (const after of pair.after.subnets) {
    const before = pair.before.subnets[pair.before.index.subnets.get(after.id) ?? -1]
    if (!before || !pair.after.index.subnets.has(after.id)) continue
    const rerouted = ways.routing?.rerouted(after.id) ?? null
    const [olds, news] = [ways.before(before), ways.after(after)]
    const paired = rerouted === null ? comparedKinds(olds, news) : knownKinds(olds, news, rerouted)
    for (const kind of paired) kinds.push({ subnet: { before, after }, ...kind })
  }
  touchIngress(pair, touched, reachedBySubnet(kinds))
  const met = withTouched(pair, touched, kinds, ways)
  const isQuiet = touched.elements.size === 0 && met.every(({ reached }) => reached.length === 0)
  const whole = isQuiet ? met : met.map((kind) => withOtherAddresses(pair, kind))
  return withTranslators(pair, whole, ways)
}

type KindOfSubnet = Omit<PairedKind, 'subnet'>

/** Kinds of a subnet that has the same ones in both states, of which is known what is reached. */
const knownKinds = (
  olds: readonly KindWays[],
  news: readonly KindWays[],
  rerouted: readonly RangeSet[],
): KindOfSubnet[] =>
  news.map((after, at) => ({
    ways: { before: olds[at]!, after },
    hosts: after.hosts,
    reached: rerouted[at]!,
    at,
  }))

/** Every kind of before with every kind of after that it shares hosts with. */
function comparedKinds(olds: readonly KindWays[], news: readonly KindWays[]): KindOfSubnet[] {
  return news.flatMap((now) =>
    (olds === news ? [now] : olds).flatMap((old): KindOfSubnet[] => {
      const own = new Set(old.hosts)
      const hosts = old === now ? now.hosts : now.hosts.filter((id) => own.has(id))
      // Where a subnet has no hosts, its kind stands for what else sends from there.
      if (hosts.length === 0 && (now.hosts.length > 0 || own.size > 0)) return []
      const both = { before: old, after: now }
      return [{ ways: both, hosts, reached: old === now ? [] : rerouted(both), at: null }]
    }),
  )
}

/**
 * Next hops are those of a host's first address of a family. Where a host has another, all of its
 * packets are taken as reached.
 */
function withOtherAddresses(pair: Pair, kind: PairedKind): PairedKind {
  const hasOthers = kind.hosts.some((id) => {
    const { addresses } = pair.after.interfaces[pair.after.index.interfaces.get(id)!]!
    return [4, 6].some((family) => addresses.filter((one) => familyOf(one) === family).length > 1)
  })
  return hasOthers ? { ...kind, reached: EVERYWHERE } : kind
}

/** The destinations whose effective next hop differs. */
const rerouted = ({ before, after }: PairedKind['ways']): RangeSet =>
  rangeSet([...differingRanges(before[4], after[4]), ...differingRanges(before[6], after[6])])

/** With the destinations whose way meets something touched, or goes out by doors that are. */
function withTouched(
  { after }: Pair,
  touched: Touched,
  kinds: readonly PairedKind[],
  ways: PairWays,
): readonly PairedKind[] {
  const { elements, sites, doors } = touched
  if (elements.size === 0 && sites.size === 0 && doors.size === 0) return kinds
  const met = rangesOfSort(ways, whatMeets(touched))
  const seenElsewhere = ({ seenAs }: Outcome): boolean => seenAs.length > 0
  return kinds.map((kind) => {
    const isAtDoor = doors.has(after.networks[kind.subnet.after.network]?.id ?? '')
    const more = [...met(kind), ...(isAtDoor ? rangesWhere(kind, seenElsewhere) : [])]
    return more.length === 0 ? kind : { ...kind, reached: rangeSet([...kind.reached, ...more]) }
  })
}

/**
 * The destinations of a kind of host whose outcome, before or after, may be of a sort: found by its
 * routing where that tells, else of its ways.
 */
export function rangesOfSort(
  { routing }: PairWays,
  sort: SortOfWays,
): (kind: PairedKind) => readonly Range[] {
  const known = routing?.rangesOf(sort)
  const is = ofSort(sort)
  return (kind) =>
    (kind.at === null ? null : known?.(kind.subnet.after.id, kind.at)) ?? rangesWhere(kind, is)
}

/** The destinations of a kind of host whose outcome, before or after, is of some sort. */
function rangesWhere({ ways }: PairedKind, is: (outcome: Outcome) => boolean): Range[] {
  const sides = ways.before === ways.after ? [ways.after] : [ways.before, ways.after]
  return sides.flatMap((side) =>
    ([4, 6] as const).flatMap((family) => side[family].filter(({ outcome }) => is(outcome))),
  )
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

/** Ways that pass something touched, or are lost at it. */
const whatMeets = ({ elements, sites }: Touched): SortOfWays => ({
  passes: (way) => way.some((ref) => elements.has(ref)),
  ends: ({ cause, reaches }) =>
    (cause !== null && (elements.has(cause.object) || isSite(sites, cause.object))) ||
    (reaches !== null && isSite(sites, reaches)),
})

const isSite = (sites: ReadonlySet<string>, ref: string): boolean =>
  ref.startsWith('sites/') && sites.has(ref.slice('sites/'.length))

/**
 * An answer that a translator turns back goes on from the translator's own subnet. Where next hops
 * from there to a sender differ, all that the sender sends by way of the translator is reached.
 */
function withTranslators(pair: Pair, kinds: readonly PairedKind[], ways: PairWays): PairedKind[] {
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
  const passing = rangesOfSort(ways, passesAny(back))
  return kinds.map((kind): PairedKind => {
    if (passing(kind).length === 0) return kind
    const sources = sourcesOf(pair, kind)
    const touching = new Set(
      [...back].flatMap(([ref, set]) =>
        sources.some((one) => rangesContain(set, one)) ? ref : [],
      ),
    )
    if (touching.size === 0) return kind
    const more = rangesOfSort(ways, passesAny(touching))(kind)
    return { ...kind, reached: rangeSet([...kind.reached, ...more]) }
  })
}

const passesAny = (elements: { readonly has: (ref: string) => boolean }): SortOfWays => ({
  passes: (way) => way.some((ref) => elements.has(ref)),
  ends: () => false,
})

const sourcesOf = (pair: Pair, { hosts }: PairedKind) =>
  hosts.flatMap((id) => pair.after.interfaces[pair.after.index.interfaces.get(id)!]!.addresses)

/** By the id of a subnet, what is reached from any kind of host there; empty ones are left out. */
export function reachedBySubnet(kinds: readonly PairedKind[]): ReadonlyMap<string, RangeSet> {
  const out = new Map<string, RangeSet>()
  for (const { subnet, reached } of kinds) {
    if (reached.length === 0) continue
    const known = out.get(subnet.after.id)
    out.set(subnet.after.id, known ? rangeSet([...known, ...reached]) : reached)
  }
  return out
}
