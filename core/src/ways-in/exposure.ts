/**
 * What can be reached from outside, host by host: design part 3.5, for the whole estate. Every
 * packet that the internet or a site can send to an address of the host is walked, box by box, and
 * what is delivered is told by port: who may send it, what it passes, and whether it is answered.
 *
 * Only what the host's own rules let in is walked at all, so that the cost follows the rules and
 * not the address space.
 */
import { familyOf, formatAddress, type Family } from '../address/address'
import {
  intersectRanges,
  rangeSet,
  rangeSetOf,
  rangeText,
  type Range,
  type RangeSet,
} from '../address/ranges'
import { prefixOf } from '../address/prefix'
import { doorsTo, portsTo, type PublishedPort } from '../exits/doors'
import { lastOf } from '../flows/steps'
import { comesTo, flowsOf, type Flow } from '../flows/flow'
import { derived } from '../incremental/derived'
import type { Model } from '../model/model'
import { portKind } from '../packet/known-ports'
import { packetJson } from '../packet/packet'
import {
  boxWith,
  joinBoxes,
  meetBoxes,
  packetOf,
  protocolsOf,
  type PacketBox,
} from '../packet/packet-set'
import type { End } from '../walk/state'
import { gravestFirst, portsOfBox, type Opening, type OpenTo } from './openings'
import { addressesOf } from './ways-in'
import { outsideSpace, packetsTo, throughRules, throughTranslators } from './from-outside'

export interface HostExposure {
  readonly openings: readonly Opening[]
  /** True where there are more kinds of packets than are walked, so that openings may be missing. */
  readonly isCut: boolean
}

/** More walks than this are not made for one host and one sender. */
const MOST_WALKS = 3_000
/** The gravest of so many openings of one host are told. */
const MOST_OPENINGS = 200
const PORTS: Range = { from: 0, to: 65535 }

/** So many ranges of an opening are told. */
const MOST_RANGES = 4

interface Sender {
  readonly ref: string
  readonly end: End
  readonly addresses: RangeSet
  readonly boxes: readonly PacketBox[]
}

/**
 * By what one host is reached from outside, the gravest first. Empty for an interface that is not
 * up, in no subnet, or a side of a firewall. In steps: it yields after each walk, so that others
 * have their turn; `isOver` is asked then, too, and ends the search. Costs a walk with its answer
 * for each box of packets that the rules before the host tell apart.
 */
export function* exposureInSteps(
  model: Model,
  index: number,
  isOver: () => boolean = () => false,
): Generator<undefined, HostExposure> {
  const host = model.interfaces[index]!
  const subnet = model.subnets[host.subnet]
  if (!subnet || !host.up || model.firewallAt.has(index)) return { openings: [], isCut: false }
  const place = {
    to: host.ref,
    subnet: subnet.id,
    network: model.networks[subnet.network]?.id ?? '',
  }
  let isCut = false
  const openings: Opening[] = []
  for (const sender of [fromInternet(model, index), ...fromSites(model, index)]) {
    const { reached, isWhole } = yield* flowsFrom(model, sender, { index, isOver })
    isCut ||= !isWhole
    for (const one of openingsIn(sender, reached)) openings.push({ ...place, ...one })
  }
  isCut ||= openings.length > MOST_OPENINGS
  return { openings: openings.sort(gravestFirst).slice(0, MOST_OPENINGS), isCut }
}

/** The same at once. */
export const exposureOf = (model: Model, index: number, isOver?: () => boolean): HostExposure =>
  lastOf(exposureInSteps(model, index, isOver))

function fromInternet(model: Model, index: number): Sender {
  return {
    ref: 'internet',
    end: { in: 'outside', ref: 'internet' },
    addresses: outsideSpace(model),
    boxes: [
      ...doorsTo(model, index).flatMap((door) => throughRules(model, index, door)),
      ...portsTo(model, index).flatMap(packetsTo),
    ],
  }
}

/** The ports of frontends by the number of the interface that they lead to, at private addresses. */
const privatePorts = derived(
  (model: Model): ReadonlyMap<number, readonly PublishedPort[]> => {
    const ports = new Map<number, PublishedPort[]>()
    for (const { up, addresses, listeners } of model.frontends)
      for (const { protocol, port, targets } of up ? listeners : [])
        for (const target of targets)
          ports.set(target, [
            ...(ports.get(target) ?? []),
            ...addresses.map((address) => ({ address, protocol, port })),
          ])
    return ports
  },
  { same: () => false },
)

function fromSites(model: Model, index: number): Sender[] {
  const boxes = [
    ...addressesOf(model, index).flatMap((address) =>
      throughTranslators(model, throughRules(model, index, address)),
    ),
    ...(privatePorts(model).get(index) ?? []).flatMap(packetsTo),
  ]
  return [...model.index.sites.keys()].map((id) => ({
    ref: `sites/${id}`,
    end: { in: 'outside', ref: `sites/${id}` },
    addresses: rangeSetOf((model.estate.sites.get(id)?.ranges ?? []).map(prefixOf)),
    boxes,
  }))
}

interface Reached {
  readonly flow: Flow
  /** The ways of its branches that come to the host. */
  readonly ways: readonly (readonly string[])[]
}

/** The flows of a sender that come to a host. */
function* flowsFrom(
  model: Model,
  { ref, end, addresses, boxes }: Sender,
  { index, isOver }: { readonly index: number; readonly isOver: () => boolean },
): Generator<undefined, { reached: readonly Reached[]; isWhole: boolean }> {
  const reached: Reached[] = []
  let walks = 0
  const isInternet = ref === 'internet'
  const about = { sources: addresses, ...(isInternet ? { publicSources: true } : {}) }
  const within = isInternet ? boxes : boxes.flatMap((box) => cutAlong(box, addresses))
  for (const flow of flowsOf(model, end, within, true, about)) {
    const ways = flow.branches.filter((one) => comesTo(one, index)).map(({ way }) => way)
    if (ways.length > 0) reached.push({ flow, ways })
    if (++walks > MOST_WALKS || isOver()) return { reached, isWhole: false }
    yield
  }
  return { reached, isWhole: true }
}

const cutAlong = (box: PacketBox, sources: RangeSet): PacketBox[] =>
  intersectRanges(rangeSet([box.src]), sources).map((src) => boxWith(box, { src }))

/** The openings that flows make; those that go the same ways are told together. */
function openingsIn(
  { ref, addresses }: Sender,
  reached: readonly Reached[],
): Omit<Opening, 'to' | 'subnet' | 'network'>[] {
  const byWays = new Map<string, Reached[]>()
  for (const one of reached) {
    const key = JSON.stringify(one.ways)
    const known = byWays.get(key)
    if (known) known.push(one)
    else byWays.set(key, [one])
  }
  return [...byWays.values()].flatMap((alike) => {
    const flows = alike.map(({ flow }) => flow)
    return portsIn(flows.map(({ box }) => box)).map(({ box, sources }) => {
      const of = intersectRanges(sources, addresses)
      const family = familyOf(box.dst.from)
      const answered = answeredIn(flows, box)
      const ports = portsOfBox(box)
      return {
        from: ref,
        address: formatAddress(box.dst.from),
        protocols: protocolsOf(box.protocol),
        ports,
        kind: ports === null ? 'other' : portKind(ports),
        openTo: openTo(of, addresses, family),
        ways: alike[0]!.ways,
        answered: answered.says,
        packet: packetJson(packetOf(sentFrom(answered.of, addresses))),
      }
    })
  })
}

/** The packets of a box that come from some addresses. */
const sentFrom = (box: PacketBox, addresses: RangeSet): PacketBox =>
  boxWith(box, { src: intersectRanges(rangeSet([box.src]), addresses)[0] ?? box.src })

/** How far packets of a box are answered, and some of them that are, where any is. */
function answeredIn(
  flows: readonly Flow[],
  box: PacketBox,
): { says: Opening['answered']; of: PacketBox } {
  const parts = flows.flatMap(({ box: own, worst }) => {
    const part = meetBoxes(own, boxWith(box, { src: own.src }))
    return part === null ? [] : [{ part, works: worst.verdict === 'works' }]
  })
  const working = parts.filter(({ works }) => works)
  const says = working.length === 0 ? 'none' : working.length === parts.length ? 'all' : 'some'
  return { says, of: (working[0] ?? parts[0])?.part ?? box }
}

/** Boxes by protocol and port, each with all of its sources; the port they come from is left out. */
function portsIn(
  boxes: readonly PacketBox[],
): { readonly box: PacketBox; readonly sources: RangeSet }[] {
  const joined = joinBoxes(boxes.map((box) => boxWith(box, { srcPort: PORTS })))
  const groups = new Map<string, PacketBox[]>()
  for (const box of joined) {
    const { dst, protocol, dstPort } = box
    const key = `${dst.from} ${protocol.from}-${protocol.to} ${dstPort.from}-${dstPort.to}`
    const known = groups.get(key)
    if (known) known.push(box)
    else groups.set(key, [box])
  }
  return [...groups.values()].map((group) => ({
    box: group[0]!,
    sources: rangeSet(group.map(({ src }) => src)),
  }))
}

const sizeOf = (set: RangeSet, family: Family): number =>
  set.reduce(
    (sum, { from, to }) =>
      familyOf(from) === family ? sum + Number(BigInt(to) - BigInt(from) + 1n) : sum,
    0,
  )

function openTo(sources: RangeSet, all: RangeSet, family: Family): OpenTo {
  const ranges = sources.filter(({ from }) => familyOf(from) === family)
  return {
    ranges: ranges.slice(0, MOST_RANGES).map(rangeText),
    moreRanges: Math.max(0, ranges.length - MOST_RANGES),
    share: Math.min(1, sizeOf(ranges, family) / Math.max(1, sizeOf(all, family))),
  }
}
