import { formatAddress, type Address, parseAddress, compareAddresses } from '../address/address'
import { type PacketJson, packetJson } from '../packet/packet'
import type { Outcome, PathVerdict, Cause } from '../walk/causes'
import { PASSED_KINDS } from '../walk/retrace'
import type { StationKind, Assumption, Walked, State, Station } from '../walk/state'
import type { FoundEnd } from './ends'

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

/** What became of a packet and its answer. */
export const verdictOf = (walked: Walked, answer: Walked | null): PathVerdict =>
  walked.outcome !== 'delivered'
    ? walked.outcome
    : answer && answer.outcome !== 'delivered'
      ? 'one-way'
      : 'works'

/** What handed the packet out of the networks; else the first peering or transit it passed. */
export const leavesByOf = (state: State): string | null =>
  state.leavesBy ?? wayOf(state.stations).find((ref) => /^(peerings|transits)\//.test(ref)) ?? null

/** One path there and back as a trace tells it. */
export function branch(from: FoundEnd, walked: Walked, answer: Walked | null): Branch {
  const { state } = walked
  const delivered = walked.outcome === 'delivered'
  const faults = [...state.faults, ...(answer?.state.faults ?? [])]
  const cause = faults[0] ?? null
  const outside = from.end?.in === 'outside'
  return {
    verdict: verdictOf(walked, answer),
    cause,
    seenAs: delivered
      ? sorted(state.seenAs.length > 0 ? state.seenAs : [formatAddress(state.packet.src)])
      : [],
    way: wayOf(state.stations),
    leavesBy: outside ? null : leavesByOf(state),
    forward: lane(walked, false),
    return: answer === null ? null : lane(answer, !delivered),
    assumed: [...state.assumed, ...(answer?.state.assumed ?? [])],
    faults,
  }
}

/** A branch with what was decided at each station, without what was looked at for it. */
export function withoutEvidence(one: Branch): Branch {
  const plain = ({ outcome, stations }: LaneJson): LaneJson => ({
    outcome,
    stations: stations.map((station) => ({ ...station, evidence: {} })),
  })
  return { ...one, forward: plain(one.forward), return: one.return && plain(one.return) }
}

/** Addresses seen by the far side in numerical order, words last. */
export function sorted(seenAs: Iterable<string>): string[] {
  const key = (text: string): Address | null => parseAddress(text)
  return [...seenAs].sort((a, b) => {
    const [x, y] = [key(a), key(b)]
    return x === null || y === null ? a.localeCompare(b) : compareAddresses(x, y)
  })
}

/** What a packet passes, without its ends and without what lies beyond its first fault. */
export const wayOf = (stations: readonly Station[]): string[] =>
  stations.filter((s) => PASSED_KINDS.has(s.kind) && !s.assumed).map((s) => s.at)
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
