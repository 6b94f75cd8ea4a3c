import { compareAddresses, familyOf, formatAddress, parseAddress, type Address, type Family } from '../address/address'
import { isPublic } from '../address/public'
import type { Model } from '../model/model'
import { verdictRank, type Cause, type Outcome, type PathVerdict } from '../walk/causes'
import { startState, walk } from '../walk/engine'
import { answerTo, ICMPV6, packetJson, TCP, protocolName, type Packet, type PacketJson } from '../packet/packet'
import {
  arrive,
  lose,
  type Assumption,
  type End,
  type FirewallPass,
  type Flow,
  type State,
  type Station,
  type StationKind,
  type Walked,
  type WalkContext,
} from '../walk/state'
import { protocolMatches } from '../rules/rule-book'
import { answerFields, PASSED_KINDS, retrace } from '../walk/retrace'
import { noteAll, type Fields } from '../walk/scope'
import { findEnd, type FoundEnd } from './ends'
import { addressTexts, nameServersOf, resolveName, usable, type NameAnswer } from './names'
import { isRefusal, readEnd, readTransport, refuse, type Question, type ReadEnd, type Refusal } from './question'

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
  /** All branches where there are several; the trace itself has the fields of the worst, but all they are seen as. */
  readonly branches: readonly Branch[]
  /** True where there were more branches than are followed one by one. */
  readonly truncated: boolean
  /** For a question by name: who answered for it. */
  readonly name?: NameJson
}

export interface NameJson {
  readonly asked: string
  readonly answeredBy: string | null
  readonly addresses: readonly string[]
  readonly nameServers: readonly { readonly address: string; readonly reachable: boolean }[]
}

export interface TraceOptions {
  readonly evidence?: boolean
}

/** Answers one question, there and back, or says why it cannot be asked. Never throws on any estate. */
export function trace(model: Model, question: Question, options: TraceOptions = {}): Trace | Refusal {
  const transport = readTransport(question)
  if (isRefusal(transport)) return transport
  const asked = findQuestion(model, question, transport.protocol === ICMPV6)
  if (isRefusal(asked)) return asked
  return traceEnds(model, question, transport, asked, options.evidence ?? true)
}

/** Follows one packet from where it begins, as if it had been asked for. */
export function tracePacket(model: Model, from: End, packet: Packet, evidence = true): Trace {
  const { src, dst, protocol, srcPort, dstPort } = packet
  const end: FoundEnd = { kind: 'address', end: from, network: -1, addresses: { 4: null, 6: null }, publicAddress: null }
  const fromText =
    from.in === 'subnet' && from.place.interface >= 0 ? `interface:${model.interfaces[from.place.interface]!.id}@${formatAddress(src)}` : formatAddress(src)
  const question = { from: fromText, to: formatAddress(dst), protocol, port: dstPort, sourcePort: srcPort }
  return traceEnds(
    model,
    question,
    { protocol, port: dstPort, sourcePort: srcPort },
    { from: end, targets: [{ to: { ...end, end: null }, src, dst }], name: null },
    evidence,
  )
}

function traceEnds(
  model: Model,
  question: Question,
  transport: { readonly protocol: number; readonly port: number | null; readonly sourcePort: number | null },
  { from, targets, name }: Asked,
  evidence: boolean,
): Trace {
  const shared = { model, about: 'packets' as const, evidence, scope: null, beyondFaults: question.continue ?? false }
  const there: WalkContext = { ...shared, direction: 'forward', answers: null }
  let truncated = false
  const branches = targets.flatMap(({ to, src, dst }): Branch[] => {
    const packet: Packet = { src, dst, protocol: transport.protocol, srcPort: transport.sourcePort, dstPort: transport.port }
    const forward = walkForward(there, from, to, packet)
    truncated ||= forward.truncated
    return forward.walks.flatMap((walked): Branch[] => {
      if (walked.deliveredAt === null) return [branch(from, walked, null)]
      const back = walkBack({ ...shared, direction: 'return' }, from.end!, packet, walked)
      truncated ||= back.truncated
      return back.walks.map((answer) => branch(from, walked, answer))
    })
  })
  const worst = branches.reduce((a, b) => (verdictRank(b.verdict) > verdictRank(a.verdict) ? b : a))
  return {
    question: { from: question.from, to: question.to, protocol: protocolName(transport.protocol), port: transport.port, sourcePort: transport.sourcePort },
    ...worst,
    seenAs: sorted(new Set(branches.flatMap((one) => one.seenAs))),
    branches: branches.length > 1 ? branches : [],
    truncated,
    ...(name ? { name: nameJson(model, from, name, shared.evidence) } : {}),
  }
}

/** A question with its ends found: a name may stand for several addresses. */
interface Asked {
  readonly from: FoundEnd
  readonly targets: readonly { readonly to: FoundEnd; readonly src: Address; readonly dst: Address }[]
  readonly name: { readonly asked: string; readonly answer: NameAnswer | null } | null
}

function findQuestion(model: Model, question: Question, wantsV6: boolean): Asked | Refusal {
  const readFrom = readEnd(question.from, 'from')
  if (isRefusal(readFrom)) return readFrom
  const readTo = readEnd(question.to, 'to')
  if (isRefusal(readTo)) return readTo
  if (readFrom.kind === 'name') return refuse('from', 'bad-question', 'a name has no place to begin at; name the interface or the subnet')
  if (readTo.kind === 'name') return findByName(model, readFrom, readTo.id)
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
  const families = ([4, 6] as const).filter((family) => from.addresses[family] !== null && to.addresses[family] !== null)
  if (families.length === 0) return noCommonFamily(question, from, to)
  const family: Family = wantsV6 && families.includes(6) ? 6 : families[0]!
  const fromInternet = from.end?.in === 'outside' && from.kind !== 'site'
  const dst = fromInternet && family === 4 && to.publicAddress !== null ? to.publicAddress : to.addresses[family]!
  return { from, targets: [{ to, src: from.addresses[family]!, dst }], name: null }
}

function findByName(model: Model, readFrom: ReadEnd, asked: string): Asked | Refusal {
  const from = findEnd(model, readFrom, 'from', -1)
  if (isRefusal(from)) return from
  const answer = resolveName(model, from.network, asked)
  const has = { 4: from.addresses[4] !== null, 6: from.addresses[6] !== null }
  const addresses = answer === null ? [] : usable(answer, has)
  if (answer !== null && addresses.length === 0) {
    return refuse(
      'question',
      'no-common-family',
      `${asked} stands for ${addressTexts(answer.addresses).join(', ')}, and the sender has no address of that family`,
    )
  }
  const unknown: FoundEnd = { kind: 'name', end: null, network: -1, addresses: { 4: null, 6: null }, publicAddress: null }
  const source = from.addresses[4] ?? from.addresses[6]!
  if (answer === null) return { from, targets: [{ to: unknown, src: source, dst: typeof source === 'number' ? 0 : 0n }], name: { asked, answer } }
  const targets = addresses.map((dst) => {
    const found = findEnd(model, { kind: 'address', address: dst }, 'to', from.network)
    return { to: isRefusal(found) ? { ...unknown, kind: 'address' as const } : found, src: from.addresses[familyOf(dst)]!, dst }
  })
  return { from, targets, name: { asked, answer } }
}

/** Which name zone, endpoint, service or party answered, and whether the network's own name servers can be reached. */
function nameJson(model: Model, from: FoundEnd, { asked, answer }: NonNullable<Asked['name']>, evidence: boolean): NameJson {
  const servers = evidence && from.end?.in === 'subnet' ? nameServersOf(model, from.network) : []
  return {
    asked,
    answeredBy: answer?.answeredBy ?? null,
    addresses: addressTexts(answer?.addresses ?? []),
    nameServers: servers.map((address) => {
      const to = formatAddress(address)
      const reached = trace(
        model,
        { from: from.end!.ref.replace('interfaces/', 'interface:').replace('subnets/', 'subnet:'), to, protocol: 'udp', port: 53 },
        { evidence: false },
      )
      return { address: to, reachable: !isRefusal(reached) && reached.verdict === 'works' }
    }),
  }
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
  if (to.kind === 'name') return lost(lose(context, start, 'name-unknown', from.network < 0 ? end.ref : model.networks[from.network]!.ref))
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

/** One flow of a way: the question's own, or one that a frontend opened. */
interface FlowWalked {
  readonly asker: End
  readonly address: Address
  readonly deliveredAt: End
  readonly packet: Packet
  readonly fields: Fields
  readonly addressField: Fields['src']
  /** The stations by which the flow came to a frontend, which answers by the same; null for any other end. */
  readonly came: readonly Station[] | null
  readonly record: Pick<State, 'translations' | 'passed' | 'allowedByEstate' | 'firewalls'>
}

/** Where a packet was delivered; only walks about routes alone end at a network. */
export const endOf = ({ deliveredAt }: Walked): End | null => (deliveredAt?.in === 'subnet' || deliveredAt?.in === 'outside' ? deliveredAt : null)

/** The answer, flow by flow: what a frontend opened is answered to it, then it answers its own caller. */
export function walkBack(context: Omit<WalkContext, 'answers'>, from: End, packet: Packet, walked: Walked): { walks: readonly Walked[]; truncated: boolean } {
  const { legs } = walked.state
  const askers = [{ end: from, address: packet.src, field: 'src' as const }, ...legs.map((leg) => ({ ...leg, field: null }))]
  const flows = askers.map(({ end, address, field }, index): FlowWalked => {
    const leg = legs[index]
    const { packet: delivered, fields } = leg ?? walked.state
    const came = leg ? leg.stations.slice(legs[index - 1]?.stations.length ?? 0) : null
    return { asker: end, address, addressField: field, deliveredAt: leg?.end ?? endOf(walked)!, packet: delivered, fields, came, record: leg ?? walked.state }
  })
  let truncated = false
  let answers: readonly (Walked | null)[] = [null]
  for (const flow of flows.reverse()) {
    answers = answers.flatMap((before): readonly Walked[] => {
      if (before !== null && before.deliveredAt === null) return [before]
      const back = walkFlowBack(context, flow, before)
      truncated ||= back.truncated
      return back.walks
    })
  }
  return { walks: answers.filter((one) => one !== null), truncated }
}

function walkFlowBack(context: Omit<WalkContext, 'answers'>, flow: FlowWalked, before: Walked | null): { walks: readonly Walked[]; truncated: boolean } {
  const { asker, address, deliveredAt, packet, fields, record } = flow
  const ends = [asker, deliveredAt].flatMap((end) => (end.in === 'subnet' ? [end.place] : []))
  const { translations, allowedByEstate, firewalls } = record
  const first = translations.find((translation) => translation.kind === 'destination')
  const moved = translations.find((translation) => translation.ports)
  const asked = {
    address: first?.before ?? packet.dst,
    addressField: first ? first.origin.address : fields.dst,
    port: moved ? moved.ports!.before : packet.dstPort,
    portField: moved ? moved.origin.port : fields.dstPort,
  }
  const answers: Flow = {
    asker,
    askerAddress: address,
    askerField: flow.addressField,
    asked,
    translations,
    allowedByEstate,
    firewalls,
    passed: [...record.passed, ...ends],
  }
  const back: WalkContext = { ...context, answers }
  const fresh = startState(answerTo(packet), nextFrom(deliveredAt), [...translations].reverse(), answerFields(fields))
  const begin = before === null ? fresh : { ...fresh, stations: before.state.stations, faults: before.state.faults, assumed: before.state.assumed }
  const decision = deliveredAt.in === 'outside' ? 'answers' : before === null ? sourceText(context.model, deliveredAt, fresh.packet) : 'answers its caller'
  const start = arrive(back, begin, { at: deliveredAt.ref, kind: before === null ? 'source' : 'frontend', decision, packet: fresh.packet })
  if (flow.came !== null) return { walks: retrace(back, start, flow.came), truncated: false }
  const { walks, truncated } = walk(back, start)
  return { walks: walks.map((answer) => judgeBypass(context, firewalls, packet, answer)), truncated }
}

/**
 * Over TCP an answer that goes round a stateful firewall its flow passed is lost. That is then the
 * cause, also where what the firewall did is not undone, or where another firewall has no state.
 */
function judgeBypass(context: Pick<WalkContext, 'scope'>, firewalls: readonly FirewallPass[], packet: Packet, answer: Walked): Walked {
  const missed = firewalls.find(({ ref }) => !answer.state.firewalls.some((met) => met.ref === ref))?.ref
  const first = answer.state.faults[0]
  const covers = first === undefined || first.code === 'no-state' || first.code === 'answer-from-other-address'
  if (missed === undefined || !covers || !protocolMatches(TCP, packet, noteAll(context, answer.state))) return answer
  // Where it goes round: the first element on the way back, or where it arrives if there is none.
  const round = answer.state.stations.findIndex((s) => PASSED_KINDS.has(s.kind))
  const station = first?.station ?? (round >= 0 ? round : answer.state.stations.length - 1)
  const cause: Cause = { code: 'return-bypasses-firewall', object: missed, direction: 'return', station }
  const faults = [cause, ...answer.state.faults.slice(1)]
  return { ...answer, outcome: 'blackholed', cause, state: { ...answer.state, faults } }
}

export function nextFrom(end: End): State['next'] {
  if (end.in === 'outside') return end.back ?? (end.ref.startsWith('sites/') ? { at: 'site', site: end.ref.slice('sites/'.length) } : { at: 'outside' })
  return { at: 'send', sender: { kind: 'host', place: end.place, ref: end.ref } }
}

function sourceText(model: Model, end: End, packet: Packet): string {
  if (end.in === 'outside') return `sends from ${formatAddress(packet.src)}`
  const subnet = model.subnets[end.place.subnet]!
  const where = subnet.zone ?? subnet.region
  return `in ${subnet.id}, ${model.networks[subnet.network]!.id}${where ? `, ${where}` : ''}`
}

/** What became of a packet and its answer. */
export const verdictOf = (walked: Walked, answer: Walked | null): PathVerdict =>
  walked.outcome !== 'delivered' ? walked.outcome : answer && answer.outcome !== 'delivered' ? 'one-way' : 'works'

/** What handed the packet out of the networks; else the first peering or transit it passed. */
export const leavesByOf = (state: State): string | null => state.leavesBy ?? wayOf(state.stations).find((ref) => /^(peerings|transits)\//.test(ref)) ?? null

function branch(from: FoundEnd, walked: Walked, answer: Walked | null): Branch {
  const { state } = walked
  const delivered = walked.outcome === 'delivered'
  const faults = [...state.faults, ...(answer?.state.faults ?? [])]
  const cause = faults[0] ?? null
  const outside = from.end?.in === 'outside'
  return {
    verdict: verdictOf(walked, answer),
    cause,
    seenAs: delivered ? sorted(state.seenAs.length > 0 ? state.seenAs : [formatAddress(state.packet.src)]) : [],
    way: wayOf(state.stations),
    leavesBy: outside ? null : leavesByOf(state),
    forward: lane(walked, false),
    return: answer === null ? null : lane(answer, !delivered),
    assumed: [...state.assumed, ...(answer?.state.assumed ?? [])],
    faults,
  }
}

function sorted(seenAs: Iterable<string>): string[] {
  const key = (text: string): Address | null => parseAddress(text)
  return [...seenAs].sort((a, b) => {
    const [x, y] = [key(a), key(b)]
    return x === null || y === null ? a.localeCompare(b) : compareAddresses(x, y)
  })
}

/** What a packet passes, without its ends and without what lies beyond its first fault. */
export const wayOf = (stations: readonly Station[]): string[] => stations.filter((s) => PASSED_KINDS.has(s.kind) && !s.assumed).map((s) => s.at)

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
