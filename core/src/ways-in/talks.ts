/**
 * Who can talk to whom among the networks: for two networks, the protocols and ports by which some
 * host of the one can send to some host of the other.
 *
 * Pairs of hosts are looked at one by one. What the rules of both let pass is taken as boxes first,
 * without a walk. Of these boxes only what may say something new is walked: not what is open
 * already, by another pair, and not what was found lost for all hosts of the sender's kind. So the
 * answer is exact, and most pairs cost no walk.
 */
import type { Range } from '../address/ranges'
import { rangeOf, rangesContain } from '../address/ranges'
import { derived } from '../incremental/derived'
import { lastOf } from '../flows/steps'
import { comesTo, eachFlow, type Flow, type FlowAbout } from '../flows/flow'
import type { InterfaceModel, Model } from '../model/model'
import { packetJson, type PacketJson } from '../packet/packet'
import {
  allPackets,
  boxWith,
  joinBoxes,
  protocolsOf,
  subtractBox,
  type PacketBox,
} from '../packet/packet-set'
import { passing } from '../rules/passing'
import { throughRules, throughTranslators } from './from-outside'
import { portsOfBox, portsText } from './openings'
import { addressesOf } from './ways-in'

/** What the hosts of one network can send to those of another. */
export interface Talk {
  /** Networks, by id. */
  readonly from: string
  readonly to: string
  /** Protocols and ports that some pair of hosts can use and is answered on, such as `tcp 443`. */
  readonly open: readonly string[]
  /** Those that some pair can send by, and none is answered on. */
  readonly unanswered: readonly string[]
  /** How many hosts there are on each side. */
  readonly hosts: { readonly from: number; readonly to: number }
  /** One such packet, answered where any is, and what it passes; null where nothing is delivered. */
  readonly shown: TalkShown | null
  /** True where it was not looked through to its end. */
  readonly isCut: boolean
}

export interface TalkShown {
  readonly packet: PacketJson
  readonly way: readonly string[]
  /** Null where the answer is lost before it passes anything. */
  readonly wayBack: readonly string[] | null
}

/** More walks than this are not made for one pair of hosts. */
const MOST_WALKS = 500
/** So many boxes that are lost are kept for a kind of host. */
const MOST_DEAD = 48

/**
 * Everything that hosts of one network can send to hosts of another, in steps: it yields after each
 * pair of hosts, so that others have their turn. `isOver` is asked after each pair, too, and ends
 * the search. Costs two questions to the rules for each pair of hosts, and a walk for each box that
 * may say something new.
 */
export function* talkInSteps(
  model: Model,
  [from, to]: readonly [number, number],
  isOver: () => boolean = () => false,
): Generator<undefined, Talk> {
  const [senders, receivers] = [hostsIn(model, from), hostsIn(model, to)]
  const found: Found = { open: [], unanswered: [], shown: null, isAnswered: false, isCut: false }
  /** By the kind of sender: packets that are lost whoever of them sends them. */
  const dead = new Map<string, PacketBox[]>()
  for (const sender of senders) {
    const kind = kindOf(sender)
    const lost = dead.get(kind) ?? []
    dead.set(kind, lost)
    for (const receiver of receivers) {
      if (found.isCut || isOver()) {
        found.isCut = true
        break
      }
      lookAt(model, { sender, receiver, found, lost })
      yield
    }
  }
  return {
    from: model.networks[from]!.id,
    to: model.networks[to]!.id,
    open: textsOf(found.open),
    unanswered: textsOf(found.open.reduce(without, found.unanswered)),
    hosts: { from: senders.length, to: receivers.length },
    shown: found.shown,
    isCut: found.isCut,
  }
}

/** The same at once. */
export function talkBetween(
  model: Model,
  pair: readonly [number, number],
  isOver?: () => boolean,
): Talk {
  return lastOf(talkInSteps(model, pair, isOver))
}

/**
 * The hosts of a network, by its number: those that are up and have an address. Sides of firewalls
 * are doors, not hosts.
 */
export const hostsIn = (model: Model, network: number): InterfaceModel[] =>
  model.networks[network]!.subnets.map((index) => model.subnets[index]!)
    .filter(({ id }) => model.index.subnets.has(id))
    .flatMap(({ interfaces }) => interfaces.map((index) => model.interfaces[index]!))
    .filter(
      ({ id, index, up, addresses }) =>
        up &&
        addresses.length > 0 &&
        model.index.interfaces.has(id) &&
        !model.firewallAt.has(index),
    )

/** Hosts of a subnet with the same rules; one with a public address is of its own kind. */
const kindOf = ({ subnet, index, publicAddress, ruleSets, localRules, source }: InterfaceModel) =>
  `${subnet} ${publicAddress === null ? '' : index} ${ruleSets} ${localRules} ${JSON.stringify(source.tags ?? '')}`

interface Found {
  /** Disjoint boxes of which only protocol and port count. */
  open: PacketBox[]
  unanswered: PacketBox[]
  shown: TalkShown | null
  isAnswered: boolean
  isCut: boolean
}

interface Looked {
  readonly sender: InterfaceModel
  readonly receiver: InterfaceModel
  readonly found: Found
  readonly lost: PacketBox[]
}

const without = (boxes: readonly PacketBox[], minus: PacketBox): PacketBox[] =>
  boxes.flatMap((box) => subtractBox(box, minus))

/** The protocols and ports of a box, whoever sends them to whom. */
const portsAlone = ({ protocol, dstPort }: PacketBox): PacketBox =>
  boxWith(allPackets(4), { protocol, dstPort })

function lookAt(model: Model, { sender, receiver, found, lost }: Looked): void {
  const { subnet, index, addresses, ref, publicAddress } = sender
  const home = model.subnets[subnet]!
  const wide = home.ranges.map(rangeOf)
  const about: FlowAbout = publicAddress === null ? { home: home.network } : {}
  for (const address of addresses) {
    const src = wide.find((range) => rangesContain([range], address)) ?? {
      from: address,
      to: address,
    }
    const boxes = boxesBetween(model, { sender, receiver, address }).flatMap((box) => {
      const open = found.open.map((one) => boxWith(one, { src: box.src, dst: box.dst }))
      return [...open, ...lost].reduce(without, [box]).map((part) => boxWith(part, { src }))
    })
    if (boxes.length === 0) continue
    const end = { in: 'subnet', place: { subnet, interface: index }, ref } as const
    let walks = 0
    const take = (flow: Flow): boolean => {
      note(found, lost, flow, receiver.index)
      return ++walks > MOST_WALKS
    }
    const sources = [{ from: address, to: address }]
    if (!eachFlow(model, end, boxes, true, take, { ...about, sources })) found.isCut = true
  }
}

function note(found: Found, lost: PacketBox[], { box, packet, branches }: Flow, to: number): void {
  if (branches.every(({ delivered }) => !delivered)) {
    lost.push(box)
    if (lost.length > MOST_DEAD) lost.shift()
    return
  }
  const arriving = branches.filter((one) => comesTo(one, to))
  const [first] = arriving
  if (first === undefined) return
  const isAnswered = branches.every(({ verdict }) => verdict === 'works')
  const ports = portsAlone(box)
  if (isAnswered) found.open.push(...found.open.reduce(without, [ports]))
  else found.unanswered.push(...found.unanswered.reduce(without, [ports]))
  if (found.shown === null || (isAnswered && !found.isAnswered))
    found.shown = { packet: packetJson(packet), way: first.way, wayBack: first.wayBack }
  found.isAnswered ||= isAnswered
}

/** Protocols and ports as texts, those that touch joined. */
const textsOf = (boxes: readonly PacketBox[]): string[] =>
  joinBoxes(boxes)
    .map((box) => portsText({ protocols: protocolsOf(box.protocol), ports: portsOfBox(box) }))
    .sort((a, b) => a.localeCompare(b, 'en', { numeric: true }))

/** What the rules before a host let in, by the address that is sent to. */
interface LetIn {
  readonly dst: Range
  readonly boxes: readonly PacketBox[]
}
const letInto = derived(
  (model: Model, index: number): readonly LetIn[] =>
    addressesOf(model, index).map((address) => ({
      dst: { from: address, to: address },
      boxes: throughTranslators(model, throughRules(model, index, address)),
    })),
  { same: () => false },
)

interface Between {
  readonly sender: InterfaceModel
  readonly receiver: InterfaceModel
  /** Of the sender. */
  readonly address: Range['from']
}

/** What the rules of both hosts let pass from one address to all of the other's. */
function boxesBetween(model: Model, { sender, receiver, address }: Between): PacketBox[] {
  const place = { subnet: sender.subnet, interface: sender.index }
  const src = { from: address, to: address }
  return letInto(model, receiver.index).flatMap(({ dst, boxes }) => {
    if (typeof address !== typeof dst.from) return []
    const sent = boxes.flatMap((box) =>
      box.src.from <= address && address <= box.src.to ? [boxWith(box, { src, dst })] : [],
    )
    return sent.length === 0 ? [] : passing(model, { direction: 'out', place, crosses: true }, sent)
  })
}
