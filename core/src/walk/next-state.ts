import type { Packet } from '../packet/packet'
import { outcomeOf, type Cause, type CauseCode } from './causes'
import type {
  AskedAt,
  AtTransit,
  End,
  InNetwork,
  State,
  Station,
  StationKind,
  Step,
  Walked,
  WalkContext,
} from './state'

/**
 * A state with some of its parts changed. The copy is written out field by field: copying what is
 * itself a copy by spreading it costs ten times as much, and a walk does hardly anything else.
 */
export const changed = (state: State, changes: Partial<State>): State =>
  Object.assign(
    {
      next: state.next,
      packet: state.packet,
      fields: state.fields,
      stations: state.stations,
      leavesBy: state.leavesBy,
      seenAs: state.seenAs,
      translations: state.translations,
      legs: state.legs,
      toUndo: state.toUndo,
      allowedByEstate: state.allowedByEstate,
      passed: state.passed,
      firewalls: state.firewalls,
      pendingNat: state.pendingNat,
      faults: state.faults,
      assumed: state.assumed,
      visited: state.visited,
    },
    changes,
  )

/** What is said of a decision: put into words only when it is read. */
export type Said = string | (() => string)

/** The state with one more station. */
export function arrive(
  context: WalkContext,
  state: State,
  station: {
    at: string
    kind: StationKind
    decision: Said
    packet?: Packet
    evidence?: () => object
    asked?: AskedAt
  },
): State {
  const { at, kind, asked = null } = station
  const decision =
    typeof station.decision === 'string'
      ? station.decision
      : context.evidence
        ? station.decision()
        : ''
  const packet = station.packet ?? state.packet
  const evidence = context.evidence && station.evidence ? station.evidence() : {}
  const arrived: Station = {
    at,
    kind,
    decision,
    packet,
    evidence,
    assumed: state.faults.length > 0,
    asked,
  }
  return changed(state, { packet, stations: [...state.stations, arrived] })
}

/**
 * The state after an element hands the packet to the internet, a site or a service; beyond a fault
 * no element counts as the one it leaves by.
 */
export const leaveBy = (state: State, ref: string): State =>
  state.faults.length > 0 ? state : changed(state, { leavesBy: ref })

/** What to go on with if a fault were mended in the least way. */
export interface IfMended {
  readonly what: string
  readonly then: (state: State) => Step
}

/**
 * The packet is lost at its last station. Inside a public NAT's search for a way out, every loss
 * but a denial is the NAT's: it is without a way out, for that inner cause.
 */
export function lose(
  context: WalkContext,
  state: State,
  code: CauseCode,
  object: string,
  ifMended?: IfMended,
): Step {
  const own = outcomeOf(code)
  const byNat = state.pendingNat >= 0 && own !== 'blocked'
  const cause: Cause = {
    code: byNat ? 'nat-without-way-out' : code,
    object: byNat ? context.model.nats[state.pendingNat]!.ref : object,
    direction: context.direction,
    station: state.stations.length - 1,
    ...(byNat ? { inner: { code, object } } : {}),
  }
  const faulty = changed(state, { faults: [...state.faults, cause] })
  if (context.beyondFaults && ifMended) {
    const assumption = { direction: context.direction, station: cause.station, what: ifMended.what }
    return ifMended.then(changed(faulty, { assumed: [...state.assumed, assumption] }))
  }
  return [finish(faulty, null)]
}

/** The walk ends here; its first fault, if it had one, is its cause. */
export function finish(state: State, deliveredAt: End | InNetwork | AtTransit | null): Walked {
  const cause = state.faults[0] ?? null
  return { outcome: cause ? outcomeOf(cause.code) : 'delivered', cause, deliveredAt, state }
}
