import { familyOf, parseAddress, type Address } from '../address/address'
import { prefixOf } from '../address/prefix'
import { isPublic } from '../address/public'
import { intersectRanges, rangeSet, rangeSetOf, type Range, type RangeSet } from '../address/ranges'
import { comesTo, eachFlow, flowsOf, type Flow } from '../flows/flow'
import { arrivingFrom } from '../exits/entries'
import { hopMemo, type HopMemo } from '../hops/hops'
import { hostKinds } from '../hops/kinds'
import { lazy } from '../incremental/cells'
import type { Model, SubnetModel } from '../model/model'
import {
  allPackets,
  boxWith,
  joinBoxes,
  packetBoxJson,
  type PacketBox,
  type PacketBoxJson,
} from '../packet/packet-set'
import { packetJson, type PacketJson } from '../packet/packet'
import { coverOf } from '../rules/covered'
import { ruleBook } from '../rules/rule-book'
import { ruleText } from '../rules/words'
import { tracePacket } from '../trace/trace'
import type { End } from '../walk/state'
import { throughRules } from './from-outside'

/** One way into a subnet: from where, by what, to which host, with which packets. */
export interface WayIn {
  /** `internet`, `sites/ID` or `networks/ID`. */
  readonly from: string
  readonly to: string
  /** What the packets pass; several where they come by different ways. */
  readonly ways: readonly (readonly string[])[]
  /** Exactly the packets that are delivered. */
  readonly packets: readonly PacketBoxJson[]
  /** One of them, and the rules that let it in, as the trace says it. */
  readonly packet: PacketJson
  readonly rules: readonly string[]
}

/** What a host that can be reached from outside opens up behind it. */
export interface Jump {
  readonly host: string
  readonly from: readonly string[]
  /** The hosts it reaches in turn. */
  readonly opens: readonly string[]
}

/** A rule for packets that come in, which none of them ever matches. */
export interface IdleRule {
  /** The set it stands in, as `ruleSets/ID`, and the rule as it was written. */
  readonly set: string
  readonly rule: string
  readonly why: string
}

export interface WaysIn {
  readonly subnet: string
  readonly ways: readonly WayIn[]
  readonly jumps: readonly Jump[]
  /** The rule sets before the subnet and its hosts, as `ruleSets/ID`. */
  readonly ruleSets: readonly string[]
  /** Of those rule sets. */
  readonly idle: readonly IdleRule[]
  /** What has too many kinds of packets to be looked through; its ways in may be incomplete. */
  readonly leftOut: readonly LeftOut[]
}

export interface LeftOut {
  readonly from: string
  readonly to: string
}

/** More walks than this are not made from one source to one host, and for one subnet. */
const MOST_WALKS = 3_000
const MOST_WALKS_A_SUBNET = 200_000

const only = (value: Address): Range => ({ from: value, to: value })

/** Somewhere packets come from. */
interface Source {
  readonly ref: string
  readonly end: End
  readonly addresses: RangeSet
}

/**
 * Who can reach a subnet’s hosts from outside it, on what, through what: design part 3.5. Asks the
 * way there; the answer is the trace’s. Costs a walk for each box of packets that the rules before
 * a host tell apart; past a bound it is left out, which is told.
 */
export function waysInOf(model: Model, subnet: SubnetModel, memo: HopMemo = hopMemo()): WaysIn {
  const sources = [...outside(model), ...otherNetworks(model, subnet)]
  const ways: WayIn[] = []
  const leftOut: LeftOut[] = []
  let left = MOST_WALKS_A_SUBNET
  for (const index of subnet.interfaces) {
    const host = model.interfaces[index]!
    if (!model.index.interfaces.has(host.id)) continue
    const byFrom = new Map<string, { flows: Flow[]; end: End }>()
    for (const source of sources) {
      const { flows, walks, isWhole } = reaching(model, source, index, Math.min(MOST_WALKS, left))
      left -= walks
      if (!isWhole && !leftOut.some((one) => one.from === source.ref && one.to === host.ref))
        leftOut.push({ from: source.ref, to: host.ref })
      const known = byFrom.get(source.ref)
      if (known) known.flows.push(...flows)
      else if (flows.length > 0) byFrom.set(source.ref, { flows: [...flows], end: source.end })
    }
    for (const [from, { flows, end }] of byFrom)
      if (flows.length > 0) ways.push(wayIn(model, from, host.ref, end, flows))
  }
  ways.sort((a, b) => breadth(b) - breadth(a))
  const { jumps, unknown } = jumpsOf(model, ways)
  return {
    subnet: subnet.ref,
    ways,
    jumps,
    leftOut: [...leftOut, ...unknown],
    ruleSets: setsBefore(model, subnet).map((index) => ruleBook(model).set(index).ref),
    idle: idleRules(model, subnet, memo),
  }
}

/** The rule sets that are asked before a subnet's hosts get a packet, by index, each once. */
function setsBefore(model: Model, { boundary, ruleSets, interfaces }: SubnetModel): number[] {
  const hosts = interfaces.map((index) => model.interfaces[index]!)
  const all = [boundary, ...ruleSets, ...hosts.flatMap((one) => [...one.ruleSets, one.localRules])]
  return [...new Set(all)].filter((index) => index >= 0)
}

/**
 * Rules that never match: earlier rules take all of their packets, or no packet from the addresses
 * they name arrives here.
 */
function idleRules(model: Model, subnet: SubnetModel, memo: HopMemo): IdleRule[] {
  const arriving = lazy(() => arrivingFrom(model, subnet, memo))
  return setsBefore(model, subnet).flatMap((index) => {
    const set = ruleBook(model).set(index)
    const written = model.estate.ruleSets.get(set.ref.slice('ruleSets/'.length))?.rules ?? []
    return set.rules.flatMap((rule): IdleRule[] => {
      if (rule.direction !== 'in') return []
      const idle = (why: string): IdleRule[] => [
        { set: set.ref, rule: ruleText(written[rule.entry]!), why },
      ]
      const cover = coverOf(set, rule)
      if (cover)
        return idle(
          `all of it is matched by ${cover.map((other) => ruleText(written[other.entry]!)).join('; ')}`,
        )
      const peers = rule.peers()
      if (peers === null || intersectRanges(peers, arriving()).length > 0) return []
      return idle(
        peers.length === 0 ? 'it names nobody there is' : 'no packet from there gets here',
      )
    })
  })
}

/** The more of the world a way lets in, the higher it stands. */
const breadth = ({ from }: WayIn): number =>
  from === 'internet' ? 3 : from.startsWith('sites/') ? 2 : 1

function wayIn(model: Model, from: string, to: string, end: End, flows: readonly Flow[]): WayIn {
  const ways = new Map<string, readonly string[]>()
  for (const flow of flows)
    for (const branch of flow.branches)
      if (branch.delivered) ways.set(branch.way.join(), branch.way)
  const { packet } = flows[0]!
  const trace = tracePacket(model, end, packet)
  return {
    from,
    to,
    ways: [...ways.values()],
    packets: joinBoxes(flows.map((flow) => flow.box)).map(packetBoxJson),
    packet: packetJson(packet),
    rules: trace.forward.stations
      .filter((one) => one.kind === 'rules')
      .map((one) => `${one.at}: ${one.decision}`),
  }
}

const outside = (model: Model): Source[] => [
  { ref: 'internet', end: { in: 'outside', ref: 'internet' }, addresses: model.internetSpace },
  ...[...model.index.sites.keys()].map((id) => ({
    ref: `sites/${id}`,
    end: { in: 'outside', ref: `sites/${id}` } as const,
    addresses: rangeSetOf((model.estate.sites.get(id)?.ranges ?? []).map(prefixOf)),
  })),
]

/** The hosts of every other network, one for each kind in each subnet. */
function otherNetworks(model: Model, subnet: SubnetModel): Source[] {
  return model.subnets.flatMap((other) => {
    const network = model.networks[other.network]
    if (
      !network ||
      other.network === subnet.network ||
      !model.index.subnets.has(other.id) ||
      !other.up
    )
      return []
    return hostKinds(model, other).flatMap((kind): Source[] => {
      const addresses = [kind.sources[4], kind.sources[6]].flatMap((address) =>
        address === null ? [] : [only(address)],
      )
      return kind.interfaces.length === 0
        ? []
        : [{ ref: network.ref, end: { in: 'subnet', place: kind.place, ref: kind.ref }, addresses }]
    })
  })
}

/**
 * Every address by which an interface may be reached: its own, its public one, those translated to
 * it.
 */
export function addressesOf(model: Model, index: number): Address[] {
  const host = model.interfaces[index]!
  const translated = model.firewalls.flatMap(({ source, interfaces, up }) => {
    if (
      source.style !== 'routed' ||
      !up ||
      !source.destinationTranslation?.some((rule) =>
        host.addresses.includes(parseAddress(rule.forward.address)!),
      )
    )
      return []
    return interfaces.flatMap((side) => {
      const { addresses, publicAddress } = model.interfaces[side.interface]!
      return publicAddress === null ? addresses : [...addresses, publicAddress]
    })
  })
  return [
    ...new Set([
      ...host.addresses,
      ...(host.publicAddress === null ? [] : [host.publicAddress]),
      ...translated,
    ]),
  ]
}

function reaching(
  model: Model,
  source: Source,
  index: number,
  most: number,
): { flows: Flow[]; walks: number; isWhole: boolean } {
  const flows: Flow[] = []
  let walks = 0
  for (const flow of flowsOf(model, source.end, boxesFrom(model, source, index), false)) {
    if (flow.branches.some((one) => comesTo(one, index))) flows.push(flow)
    if (++walks > most) return { flows, walks, isWhole: false }
  }
  return { flows, walks, isWhole: true }
}

/**
 * Every packet of a source to any address of a host. Of the internet, which is wide and carries no
 * private addresses, only what the host's own rules may let in: else walks would be spent on what
 * they deny.
 */
const boxesFrom = (model: Model, source: Source, index: number): PacketBox[] =>
  addressesOf(model, index).flatMap((dst) => {
    const sources = source.addresses.filter((src) => typeof src.from === typeof dst)
    if (source.ref === 'internet' && !isPublic(dst)) return []
    return source.ref === 'internet'
      ? throughRules(model, index, dst).flatMap((box) =>
          intersectRanges(rangeSet([box.src]), rangeSet(sources)).map((src) =>
            boxWith(box, { src }),
          ),
        )
      : sources.map((src) => boxWith(allPackets(familyOf(dst)), { src, dst: only(dst) }))
  })

/** In a second step: what the hosts that can be reached from outside reach themselves. */
function jumpsOf(
  model: Model,
  ways: readonly WayIn[],
): { readonly jumps: readonly Jump[]; readonly unknown: readonly LeftOut[] } {
  const unknown: LeftOut[] = []
  const reached = new Map<string, Set<string>>()
  for (const { from, to } of ways)
    if (!from.startsWith('networks/')) reached.set(to, (reached.get(to) ?? new Set()).add(from))
  const jumps = [...reached].map(([host, from]) => {
    const own = model.interfaces[model.index.interfaces.get(host.slice('interfaces/'.length))!]!
    const opens = model.interfaces.filter((one) => {
      if (from.has(one.ref)) return false
      const isOpen = opensBehind(model, own.index, one.index, MOST_WALKS)
      if (isOpen === null) unknown.push({ from: host, to: one.ref })
      return isOpen
    })
    return { host, from: [...from], opens: opens.map((one) => one.ref) }
  })
  return { jumps, unknown }
}

/**
 * Whether a host reaches another one outside its subnet with any packet, answered or not: a step on
 * for whoever has got to the first. Null where that is not known after `most` walks. Costs a walk
 * for each box of packets between the two, until one arrives.
 */
export function opensBehind(
  model: Model,
  from: number,
  to: number,
  most = Infinity,
): boolean | null {
  const [own, other] = [model.interfaces[from]!, model.interfaces[to]!]
  const isApart = from !== to && other.subnet >= 0 && other.subnet !== own.subnet
  if (!isApart || !model.index.interfaces.has(other.id)) return false
  const end: End = {
    in: 'subnet',
    place: { subnet: own.subnet, interface: own.index },
    ref: own.ref,
  }
  const boxes = boxesFrom(model, { ref: own.ref, end, addresses: own.addresses.map(only) }, to)
  let arrives = false
  let walks = 0
  const isWhole = eachFlow(model, end, boxes, false, (flow) => {
    arrives = flow.branches.some((one) => comesTo(one, to))
    return arrives || ++walks >= most
  })
  return arrives || (isWhole ? false : null)
}
