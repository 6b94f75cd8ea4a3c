import { contextWith } from '../walk/context'
import { formatAddress, type Address } from '../address/address'
import { isPublic } from '../address/public'
import type { Model } from '../model/model'
import { type Packet, answerTo, TCP } from '../packet/packet'
import { protocolMatches } from '../rules/condition'
import { outcomeRank, type Cause } from '../walk/causes'
import { MAX_BRANCHES, startState, walk, type Walks } from '../walk/engine'
import { answerFields, retrace, PASSED_KINDS } from '../walk/retrace'
import { noteAll } from '../walk/scope'
import { nameOf } from '../walk/words'
import type { Fields } from '../walk/fields'
import { changed, arrive, lose } from '../walk/next-state'
import type { WalkContext, Walked, End, Station, State, Flow, FirewallPass } from '../walk/state'

import type { FoundEnd } from './ends'

/** All walks of a question from its source to its destination. */
export function walkForward(
  context: WalkContext,
  from: FoundEnd,
  to: FoundEnd,
  packet: Packet,
): Walks {
  const { model } = context
  const end = from.end!
  const begin = startState(packet, nextFrom(end))
  const start = arrive(context, begin, {
    at: end.ref,
    kind: 'source',
    decision: sourceText(model, end, packet),
  })
  const lost = (step: ReturnType<typeof lose>) => ({
    walks: step.filter((item): item is Walked => 'outcome' in item),
    truncated: false,
    forgotten: new Set<string>(),
  })
  if (to.kind === 'name')
    return lost(
      lose(
        context,
        start,
        'name-unknown',
        from.network < 0 ? end.ref : model.networks[from.network]!.ref,
      ),
    )
  if (end.in === 'outside' && begin.next.at === 'outside' && !isPublic(packet.dst)) {
    const isHost = to.end?.in === 'subnet' && to.kind !== 'address'
    const there = arrive(context, start, {
      at: 'internet',
      kind: 'delivery',
      decision: `${formatAddress(packet.dst)} is private, and the internet does not carry it`,
    })
    return lost(
      lose(
        context,
        there,
        isHost ? 'no-public-address' : 'private-destination',
        to.end?.ref ?? 'internet',
      ),
    )
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
  /**
   * The stations by which the flow came to a frontend, which answers by the same; null for any
   * other end.
   */
  readonly came: readonly Station[] | null
  readonly record: Pick<State, 'translations' | 'passed' | 'allowedByEstate' | 'firewalls'>
}

/** Where a packet was delivered; only walks about routes alone end at a network. */
export const endOf = ({ deliveredAt }: Walked): End | null =>
  deliveredAt?.in === 'subnet' || deliveredAt?.in === 'outside' ? deliveredAt : null

/** A flow there, with each way its answer takes; none where nothing was delivered. */
export interface ThereAndBack {
  readonly walked: Walked
  readonly answers: readonly Walked[]
}

/**
 * Walks a packet there, by `forward`, and each of its answers back. Paths of equal cost that meet
 * share their answers. Where an answer asks rules that only some of those paths passed, all is
 * walked again with these kept apart.
 */
export function walkThereAndBack(
  context: WalkContext,
  from: End,
  packet: Packet,
  forward: (there: WalkContext) => Walks,
): { flows: readonly ThereAndBack[]; truncated: boolean } {
  for (let keptApart: ReadonlySet<string> = new Set(); ;) {
    const there = forward(contextWith(context, { keptApart }))
    const asked = new Set<string>()
    const noteAsked = there.forgotten.size > 0 ? (place: string) => asked.add(place) : undefined
    const back = answersOf(
      contextWith(context, { direction: 'return', noteAsked }),
      from,
      packet,
      there,
    )
    const missed = [...asked].filter((place) => there.forgotten.has(place))
    if (missed.length === 0) return back
    keptApart = new Set([...keptApart, ...missed])
  }
}

/**
 * The answers to each walk; one that shares its end with another has the worst of its answers. Once
 * so many answers are followed that no more would be told, further walks are left out, and
 * `truncated` says so.
 */
function answersOf(
  context: WalkContext,
  from: End,
  packet: Packet,
  there: Walks,
): { flows: readonly ThereAndBack[]; truncated: boolean } {
  const known = new Map<Walked | string, readonly Walked[]>()
  let { truncated } = there
  let followed = 0
  const flows = there.walks.flatMap((walked): readonly ThereAndBack[] => {
    if (walked.deliveredAt === null) return [{ walked, answers: [] }]
    const key = there.walks.length > 1 ? answeredBy(walked) : null
    const isMany = followed >= MOST_IN_FULL
    const shared = known.get(walked.like ?? walked) ?? (isMany && key ? known.get(key) : undefined)
    if (shared) return [{ walked, answers: [worstOf(shared)] }]
    if (followed >= MAX_BRANCHES) {
      truncated = true
      return []
    }
    const back = walkBack(context, from, packet, walked)
    truncated ||= back.truncated
    followed += back.walks.length
    known.set(walked, back.walks)
    if (key !== null) known.set(key, back.walks)
    return [{ walked, answers: back.walks }]
  })
  return { flows, truncated }
}

/** Up to so many branches each way there is told with each way back. */
const MOST_IN_FULL = 16

/**
 * Everything of a flow's end that its answers depend on, as a key: flows that came by different
 * paths to the same end, with the same header, past the same rules, are answered alike. Null where
 * a frontend is on the way, which answers by the path it was asked by.
 */
function answeredBy({ deliveredAt, state }: Walked): string | null {
  if (state.legs.length > 0) return null
  const { packet, fields, translations, passed, allowedByEstate, firewalls } = state
  return JSON.stringify(
    [deliveredAt, packet, fields, translations, passed, allowedByEstate, firewalls],
    (_key, value: unknown) => (typeof value === 'bigint' ? `${value}n` : value),
  )
}

const worstOf = (walks: readonly Walked[]): Walked =>
  walks.reduce((a, b) => (outcomeRank(b.outcome) > outcomeRank(a.outcome) ? b : a))

/**
 * The answer, flow by flow: what a frontend opened is answered to it, then it answers its own
 * caller.
 */
export function walkBack(
  context: WalkContext,
  from: End,
  packet: Packet,
  walked: Walked,
): { walks: readonly Walked[]; truncated: boolean } {
  const { legs } = walked.state
  const askers = [
    { end: from, address: packet.src, field: 'src' as const },
    ...legs.map((leg) => ({ ...leg, field: null })),
  ]
  const flows = askers.map(({ end, address, field }, index): FlowWalked => {
    const leg = legs[index]
    const { packet: delivered, fields } = leg ?? walked.state
    const came = leg ? leg.stations.slice(legs[index - 1]?.stations.length ?? 0) : null
    return {
      asker: end,
      address,
      addressField: field,
      deliveredAt: leg?.end ?? endOf(walked)!,
      packet: delivered,
      fields,
      came,
      record: leg ?? walked.state,
    }
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

function walkFlowBack(
  context: WalkContext,
  flow: FlowWalked,
  before: Walked | null,
): { walks: readonly Walked[]; truncated: boolean } {
  const { asker, address, deliveredAt, packet, fields, record } = flow
  const ends = [asker, deliveredAt].flatMap((end) => (end.in === 'subnet' ? [end.place] : []))
  const { translations, allowedByEstate, firewalls } = record
  const answers: Flow = {
    asker,
    askerAddress: address,
    askerField: flow.addressField,
    asked: askedOf(flow),
    translations,
    allowedByEstate,
    firewalls,
    passed: [...record.passed, ...ends],
  }
  const back = contextWith(context, { answers })
  const fresh = startState(
    answerTo(packet),
    nextFrom(deliveredAt),
    [...translations].reverse(),
    answerFields(fields),
  )
  const begin =
    before === null
      ? fresh
      : changed(fresh, {
          stations: before.state.stations,
          faults: before.state.faults,
          assumed: before.state.assumed,
        })
  const decision =
    deliveredAt.in === 'outside'
      ? 'answers'
      : before === null
        ? sourceText(context.model, deliveredAt, fresh.packet)
        : 'answers its caller'
  const start = arrive(back, begin, {
    at: deliveredAt.ref,
    kind: before === null ? 'source' : 'frontend',
    decision,
    packet: fresh.packet,
  })
  if (flow.came !== null) return { walks: retrace(back, start, flow.came), truncated: false }
  const { walks, truncated } = walk(back, start)
  return {
    walks: walks.map((answer) => judgeBypass(context, firewalls, packet, answer)),
    truncated,
  }
}

/** The address and port that the flow's asker asked for, before anything was translated. */
function askedOf({ packet, fields, record: { translations } }: FlowWalked): Flow['asked'] {
  const first = translations.find((translation) => translation.kind === 'destination')
  const moved = translations.find((translation) => translation.ports)
  return {
    address: first?.before ?? packet.dst,
    addressField: first ? first.origin.address : fields.dst,
    port: moved ? moved.ports!.before : packet.dstPort,
    portField: moved ? moved.origin.port : fields.dstPort,
  }
}

/**
 * Over TCP an answer that goes round a stateful firewall its flow passed is lost. That is then the
 * cause, also where what the firewall did is not undone, or where another firewall has no state.
 */
function judgeBypass(
  context: Pick<WalkContext, 'scope'>,
  firewalls: readonly FirewallPass[],
  packet: Packet,
  answer: Walked,
): Walked {
  const missed = firewalls.find(
    ({ ref }) => !answer.state.firewalls.some((met) => met.ref === ref),
  )?.ref
  const first = answer.state.faults[0]
  const covers =
    first === undefined || first.code === 'no-state' || first.code === 'answer-from-other-address'
  if (
    missed === undefined ||
    !covers ||
    !protocolMatches(TCP, packet, noteAll(context, answer.state))
  )
    return answer
  // Where it goes round: the first element on the way back, or where it arrives if there is none.
  const round = answer.state.stations.findIndex((s) => PASSED_KINDS.has(s.kind))
  const station = first?.station ?? (round >= 0 ? round : answer.state.stations.length - 1)
  const cause: Cause = {
    code: 'return-bypasses-firewall',
    object: missed,
    direction: 'return',
    station,
  }
  const faults = [cause, ...answer.state.faults.slice(1)]
  const stations = answer.state.stations.map((one, place, { length }): Station =>
    place === length - 1 && one.kind === 'delivery'
      ? { ...one, decision: `comes here without ${nameOf(missed)}, which holds the connection` }
      : one,
  )
  const state = changed(answer.state, { faults, stations })
  return { ...answer, outcome: 'blackholed', cause, state }
}

/** The first step of a packet that begins at an end. */
export function nextFrom(end: End): State['next'] {
  if (end.in === 'outside')
    return (
      end.back ??
      (end.ref.startsWith('sites/')
        ? { at: 'site', site: end.ref.slice('sites/'.length) }
        : { at: 'outside' })
    )
  return { at: 'send', sender: { kind: 'host', place: end.place, ref: end.ref } }
}

function sourceText(model: Model, end: End, packet: Packet): string {
  if (end.in === 'outside') return `sends from ${formatAddress(packet.src)}`
  const subnet = model.subnets[end.place.subnet]!
  const where = subnet.zone ?? subnet.region
  return `in ${subnet.id}, ${model.networks[subnet.network]!.id}${where ? `, ${where}` : ''}`
}
