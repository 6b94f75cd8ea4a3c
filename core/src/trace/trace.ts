import { compareAddresses, formatAddress, parseAddress, type Address, type Family } from '../address/address'
import { isPublic } from '../address/public'
import type { Model } from '../model/model'
import { verdictRank, type Cause, type Outcome, type PathVerdict } from '../walk/causes'
import { startState, walk } from '../walk/engine'
import { answerTo, ICMPV6, packetJson, TCP, protocolName, type Packet, type PacketJson } from '../packet/packet'
import { arrive, lose, type Assumption, type End, type State, type Station, type StationKind, type Walked, type WalkContext } from '../walk/state'
import { findEnd, type FoundEnd } from './ends'
import { isRefusal, readEnd, readTransport, refuse, type Question, type Refusal } from './question'

export interface StationJson {
  readonly at: string
  readonly kind: StationKind
  readonly decision: string
  readonly packet: PacketJson
  readonly evidence: object
  /** Present where the packet only gets here under an assumption. */
  readonly assumed?: true
}

export interface LaneJson {
  readonly outcome: Outcome
  readonly stations: readonly StationJson[]
}

/** One path there and back. */
export interface Branch {
  readonly verdict: PathVerdict
  readonly cause: Cause | null
  readonly seenAs: readonly string[]
  readonly way: readonly string[]
  readonly leavesBy: string | null
  readonly forward: LaneJson
  readonly return: LaneJson | null
  readonly assumed: readonly Assumption[]
  /** Every fault met, the first first; more than one only beyond assumptions. */
  readonly faults: readonly Cause[]
}

/** The answer to a question: design part 3.4. */
export interface Trace extends Branch {
  readonly question: {
    readonly from: string
    readonly to: string
    readonly protocol: string | number
    readonly port: number | null
    readonly sourcePort: number | null
  }
  /** All branches where there are several; the fields of the trace itself are those of the worst. */
  readonly branches: readonly Branch[]
  /** True where there were more branches than are followed one by one. */
  readonly truncated: boolean
}

export interface TraceOptions {
  readonly evidence?: boolean
}

/** Answers one question, there and back, or says why it cannot be asked. Never throws on any estate. */
export function trace(model: Model, question: Question, options: TraceOptions = {}): Trace | Refusal {
  const transport = readTransport(question)
  if (isRefusal(transport)) return transport
  const ends = findEnds(model, question, transport.protocol === ICMPV6)
  if (isRefusal(ends)) return ends
  const { from, to, src, dst } = ends
  const packet: Packet = { src, dst, protocol: transport.protocol, srcPort: transport.sourcePort, dstPort: transport.port }
  const shared = { model, about: 'packets' as const, evidence: options.evidence ?? true, beyondFaults: question.continue ?? false }
  const there: WalkContext = { ...shared, direction: 'forward', answers: null }
  const forward = walkForward(there, from, to, packet)
  let { truncated } = forward
  const branches = forward.walks.flatMap((walked): Branch[] => {
    if (walked.deliveredAt === null) return [branch(from, walked, null)]
    const back = walkBack({ ...shared, direction: 'return' }, from, packet, walked)
    truncated ||= back.truncated
    return back.walks.map((answer) => branch(from, walked, judgeBypass(walked, answer)))
  })
  const worst = branches.reduce((a, b) => (verdictRank(b.verdict) > verdictRank(a.verdict) ? b : a))
  const asked = { from: question.from, to: question.to, protocol: protocolName(transport.protocol), port: transport.port, sourcePort: transport.sourcePort }
  return { question: asked, ...worst, branches: branches.length > 1 ? branches : [], truncated }
}

interface Ends {
  readonly from: FoundEnd
  readonly to: FoundEnd
  readonly src: Address
  readonly dst: Address
}

function findEnds(model: Model, question: Question, wantsV6: boolean): Ends | Refusal {
  const readFrom = readEnd(question.from, 'from')
  if (isRefusal(readFrom)) return readFrom
  const readTo = readEnd(question.to, 'to')
  if (isRefusal(readTo)) return readTo
  // An address that several networks have is taken from the other end's network: find the other end first.
  const toFirst = readFrom.kind === 'address'
  const first = toFirst ? findEnd(model, readTo, 'to', -1) : findEnd(model, readFrom, 'from', -1)
  if (isRefusal(first) && first.code !== 'ambiguous') return first
  const firstNetwork = isRefusal(first) ? -1 : first.network
  const second = toFirst ? findEnd(model, readFrom, 'from', firstNetwork) : findEnd(model, readTo, 'to', firstNetwork)
  if (isRefusal(second)) return second
  const settled = isRefusal(first) ? findEnd(model, toFirst ? readTo : readFrom, toFirst ? 'to' : 'from', second.network) : first
  if (isRefusal(settled)) return settled
  const [from, to] = toFirst ? [second, settled] : [settled, second]
  if (from.kind === 'name') return refuse('from', 'bad-question', 'a name has no place to begin at; name the interface or the subnet')
  if (to.kind === 'name') return { from, to, src: from.addresses[4] ?? from.addresses[6]!, dst: from.addresses[4] === null ? 0n : 0 }
  const families = ([4, 6] as const).filter((family) => from.addresses[family] !== null && to.addresses[family] !== null)
  if (families.length === 0) return noCommonFamily(question, from, to)
  const family: Family = wantsV6 && families.includes(6) ? 6 : families[0]!
  const dst = from.end?.in === 'outside' && family === 4 && to.publicAddress !== null ? to.publicAddress : to.addresses[family]!
  return { from, to, src: from.addresses[family]!, dst }
}

function noCommonFamily(question: Question, from: FoundEnd, to: FoundEnd): Refusal {
  const has = (end: FoundEnd): string =>
    [end.addresses[4] !== null && 'IPv4', end.addresses[6] !== null && 'IPv6'].filter(Boolean).join(' and ') || 'no address'
  return refuse('question', 'no-common-family', `${question.from} has ${has(from)}, ${question.to} has ${has(to)}: no packet can have both as its ends`)
}

function walkForward(context: WalkContext, from: FoundEnd, to: FoundEnd, packet: Packet): { walks: readonly Walked[]; truncated: boolean } {
  const { model } = context
  const end = from.end!
  const begin = startState(packet, nextFrom(end))
  const start = arrive(context, begin, { at: end.ref, kind: 'source', decision: sourceText(model, end, packet) })
  const lost = (step: ReturnType<typeof lose>) => ({ walks: step.filter((item): item is Walked => 'outcome' in item), truncated: false })
  if (to.kind === 'name') return lost(lose(context, start, 'unsupported', to.end!.ref))
  if (end.in === 'outside' && begin.next.at === 'outside' && !isPublic(packet.dst)) {
    const isHost = to.end?.in === 'subnet' && to.kind !== 'address'
    const there = arrive(context, start, {
      at: 'internet',
      kind: 'delivery',
      decision: `${formatAddress(packet.dst)} is private, and the internet does not carry it`,
    })
    return lost(lose(context, there, isHost ? 'no-public-address' : 'private-destination', to.end?.ref ?? 'internet'))
  }
  return walk(context, start)
}

function walkBack(context: Omit<WalkContext, 'answers'>, from: FoundEnd, packet: Packet, walked: Walked): { walks: readonly Walked[]; truncated: boolean } {
  const delivered = walked.deliveredAt!
  const { translations, allowedByEstate, firewalls } = walked.state
  const ends = [from.end!, delivered].flatMap((end) => (end.in === 'subnet' ? [end.place] : []))
  const back: WalkContext = {
    ...context,
    answers: { asker: from.end!, askerAddress: packet.src, translations, allowedByEstate, firewalls, passed: [...walked.state.passed, ...ends] },
  }
  const answer = answerTo(walked.state.packet)
  const begin = startState(answer, nextFrom(delivered), [...translations].reverse())
  const start = arrive(back, begin, {
    at: delivered.ref,
    kind: 'source',
    decision: delivered.in === 'outside' ? 'answers' : sourceText(context.model, delivered, answer),
  })
  // A delivery reached under an assumption makes the whole answer an assumption.
  return walk(back, start)
}

/**
 * Over TCP an answer that goes round a stateful firewall its flow passed is lost. That is then the
 * cause, also where what the firewall did is not undone, or where another firewall has no state.
 */
function judgeBypass(walked: Walked, answer: Walked): Walked {
  const missed = walked.state.firewalls.find((ref) => !answer.state.firewalls.includes(ref))
  const first = answer.state.faults[0]
  const covers = first === undefined || first.code === 'no-state' || first.code === 'answer-from-other-address'
  if (missed === undefined || walked.state.packet.protocol !== TCP || !covers) return answer
  const station = first?.station ?? answer.state.stations.length - 1
  const cause: Cause = { code: 'return-bypasses-firewall', object: missed, direction: 'return', station }
  const faults = [cause, ...answer.state.faults.slice(1)]
  return { ...answer, outcome: 'blackholed', cause, state: { ...answer.state, faults } }
}

function nextFrom(end: End): State['next'] {
  if (end.in === 'outside') return end.back ?? (end.ref.startsWith('sites/') ? { at: 'site', site: end.ref.slice('sites/'.length) } : { at: 'outside' })
  return { at: 'send', sender: { kind: 'host', place: end.place, ref: end.ref } }
}

function sourceText(model: Model, end: End, packet: Packet): string {
  if (end.in === 'outside') return `sends from ${formatAddress(packet.src)}`
  const subnet = model.subnets[end.place.subnet]!
  const where = subnet.zone ?? subnet.region
  return `in ${subnet.id}, ${model.networks[subnet.network]!.id}${where ? `, ${where}` : ''}`
}

function branch(from: FoundEnd, walked: Walked, answer: Walked | null): Branch {
  const { state } = walked
  const delivered = walked.outcome === 'delivered'
  const faults = [...state.faults, ...(answer?.state.faults ?? [])]
  const cause = faults[0] ?? null
  const verdict: PathVerdict =
    walked.outcome !== 'delivered'
      ? walked.outcome
      : answer && answer.outcome !== 'delivered'
        ? answer.outcome === 'unsupported'
          ? 'unsupported'
          : 'one-way'
        : 'works'
  const outside = from.end?.in === 'outside'
  return {
    verdict,
    cause,
    seenAs: delivered ? sorted(state.seenAs.length > 0 ? state.seenAs : [formatAddress(state.packet.src)]) : [],
    way: wayOf(state.stations),
    leavesBy: outside ? null : (state.leavesBy ?? wayOf(state.stations).find((ref) => /^(peerings|transits)\//.test(ref)) ?? null),
    forward: lane(walked, false),
    return: answer === null ? null : lane(answer, !delivered),
    assumed: [...state.assumed, ...(answer?.state.assumed ?? [])],
    faults,
  }
}

function sorted(seenAs: readonly string[]): string[] {
  const key = (text: string): Address | null => parseAddress(text)
  return [...seenAs].sort((a, b) => {
    const [x, y] = [key(a), key(b)]
    return x === null || y === null ? a.localeCompare(b) : compareAddresses(x, y)
  })
}

const ON_THE_WAY: ReadonlySet<StationKind> = new Set([
  'gateway',
  'nat',
  'firewall',
  'inspect',
  'peering',
  'transit',
  'endpoint',
  'frontend',
  'site',
  'internet',
])

/** What a packet passes, without its ends and without what lies beyond its first fault. */
export const wayOf = (stations: readonly Station[]): string[] => stations.filter((s) => ON_THE_WAY.has(s.kind) && !s.assumed).map((s) => s.at)

const lane = (walked: Walked, assumed: boolean): LaneJson => ({
  outcome: walked.outcome,
  stations: walked.state.stations.map(({ at, kind, decision, packet, evidence, assumed: own }) => ({
    at,
    kind,
    decision,
    packet: packetJson(packet),
    evidence,
    ...(own || assumed ? { assumed: true as const } : {}),
  })),
})
