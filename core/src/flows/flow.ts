import { contextOf } from '../walk/context'
import { familyOf } from '../address/address'
import { firstPart, type RangeSet } from '../address/ranges'
import type { Model } from '../model/model'
import { allPackets, boxWith, packetOf, subtractBox, type PacketBox } from '../packet/packet-set'
import type { Packet } from '../packet/packet'
import { endOf, nextFrom, walkThereAndBack } from '../trace/walk-flow'
import { leavesByOf, verdictOf, wayOf } from '../trace/branch'
import { verdictRank, type Cause, type PathVerdict } from '../walk/causes'
import { startState, walk } from '../walk/engine'
import { scopeOf } from '../walk/fields'
import { gatesOf, type Gate } from './gates'
import type { End, Walked } from '../walk/state'

/** One path of a packet there, and back where it is asked for. */
export interface FlowBranch {
  readonly verdict: PathVerdict
  /** Delivered on the way there, whatever became of the answer. */
  readonly delivered: boolean
  readonly cause: Cause | null
  readonly way: readonly string[]
  readonly wayBack: readonly string[] | null
  readonly leavesBy: string | null
  readonly seenAs: readonly string[]
  readonly deliveredAt: End | null
  /** The rules that were not asked, where they are asked afterwards; else empty. */
  readonly gates: readonly Gate[]
}

/** The outcome of a packet, and of every other packet in the box around it. */
export interface Flow {
  readonly packet: Packet
  readonly box: PacketBox
  /** Of several branches the worst decides, as in a trace. */
  readonly worst: FlowBranch
  readonly branches: readonly FlowBranch[]
}

/** Whether a path delivers to a host, by the number of its interface. */
export const comesTo = ({ delivered, deliveredAt }: FlowBranch, index: number): boolean =>
  delivered && deliveredAt?.in === 'subnet' && deliveredAt.place.interface === index

/** What a flow is asked about, where it is not everything about one host. */
export interface FlowAbout {
  /** Routes alone, and what keeps state. */
  readonly ignoresRules?: boolean
  /** Rules of hosts and subnets are not asked: each branch names them as gates. */
  readonly defersRules?: boolean
  /**
   * The sender stands for all hosts of its kind in this network: the box then holds their sources
   * too.
   */
  readonly home?: number
  /**
   * All sources are public, so that nothing is learned from finding one so: boxes may then hold
   * others, which are not meant.
   */
  readonly publicSources?: boolean
  /**
   * Only packets from these are walked, whatever else boxes hold. There may be thousands of ranges:
   * boxes need not be cut along them.
   */
  readonly sources?: RangeSet
  /**
   * The packets that a flow represents, where these are more than its box: no other of them is
   * walked.
   */
  readonly settles?: (flow: Flow) => PacketBox
}

/**
 * Walks one packet from `from` and tells for which box of packets within `within` everything would
 * have been the same. Without `answers` only the way there is walked, and the box is the larger.
 */
export function walkFlow(
  model: Model,
  from: End,
  packet: Packet,
  within: PacketBox,
  answers: boolean,
  about: FlowAbout = {},
): Flow {
  const scope = scopeOf(within)
  const context = contextOf({
    model,
    about: 'packets',
    scope,
    ignoresRules: about.ignoresRules,
    defersRules: about.defersRules,
    home: about.home,
    publicSources: about.publicSources,
  })
  const start = startState(packet, nextFrom(from))
  const branch = (walked: Walked, answer: Walked | null): FlowBranch =>
    branchOf(from, walked, answer, about.defersRules ? gatesOf(walked, answer) : [])
  const branches = answers
    ? walkThereAndBack(context, from, packet, (there) => walk(there, start)).flows.flatMap(
        ({ walked, answers: back }) =>
          back.length === 0 ? [branch(walked, null)] : back.map((one) => branch(walked, one)),
      )
    : walk(context, start).walks.map((walked) => branch(walked, null))
  const worst = branches.reduce((a, b) => (verdictRank(b.verdict) > verdictRank(a.verdict) ? b : a))
  return { packet, box: scope.box, worst, branches }
}

/** The ways of one packet there, of which only these are told. */
export const walkPacket = (model: Model, from: End, packet: Packet): FlowBranch[] =>
  walk(
    contextOf({ model, about: 'packets', scope: null }),
    startState(packet, nextFrom(from)),
  ).walks.map((walked) => branchOf(from, walked, null, []))

function branchOf(
  from: End,
  walked: Walked,
  answer: Walked | null,
  gates: readonly Gate[],
): FlowBranch {
  const delivered = walked.outcome === 'delivered'
  return {
    verdict: verdictOf(walked, answer),
    delivered,
    cause: walked.cause ?? answer?.cause ?? null,
    way: wayOf(walked.state.stations),
    wayBack: answer === null ? null : wayOf(answer.state.stations),
    leavesBy: from.in === 'outside' ? null : leavesByOf(walked.state),
    seenAs: walked.state.seenAs,
    deliveredAt: endOf(walked),
    gates,
  }
}

/** More walks than this for one source are not made: it is a RangeError, never a silent gap. */
export const MOST_WALKS = 200_000

/**
 * Every packet of some boxes, walked box by box until none is left; `take` may end it by returning
 * true. Exact: no packet is left out, and each belongs to one flow. Returns false if ended early.
 */
export function eachFlow(
  model: Model,
  from: End,
  boxes: readonly PacketBox[],
  answers: boolean,
  take: (flow: Flow) => unknown,
  about: FlowAbout = {},
): boolean {
  for (const flow of flowsOf(model, from, boxes, answers, about))
    if (take(flow) === true) return false
  return true
}

/** The same flow by flow, so that others can have their turn after each. */
export function* flowsOf(
  model: Model,
  from: End,
  boxes: readonly PacketBox[],
  answers: boolean,
  about: FlowAbout = {},
): Generator<Flow> {
  let pending = [...boxes].reverse()
  for (let walks = 0; pending.length > 0; walks++) {
    const within = pending.pop()!
    const src = about.sources ? firstPart(about.sources, within.src) : within.src
    if (src === null) continue
    const packet = packetOf(boxWith(within, { src }))
    const wide = about.publicSources
      ? boxWith(within, { src: allPackets(familyOf(packet.src)).src })
      : within
    const flow = walkFlow(model, from, packet, wide, answers, about)
    yield flow
    if (walks > MOST_WALKS)
      throw new RangeError(`more than ${MOST_WALKS} kinds of packets from ${from.ref}`)
    const settled = about.settles?.(flow) ?? flow.box
    const rest = subtractBox(within, settled).reverse()
    if (about.publicSources) pending = pending.flatMap((box) => subtractBox(box, settled))
    pending.push(...rest)
  }
}
