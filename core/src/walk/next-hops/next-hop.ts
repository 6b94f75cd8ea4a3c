import type { MapSection } from '../../format/schema/document'
import type { Model, RouteModel } from '../../model/model'
import type { Target } from '../../model/targets'
import type { CauseCode } from '../causes'
import type { HopFrom, State, Step, WalkContext } from '../state'

/** A route that won, on the way to being followed. */
export interface Hop<T extends Target = Target> {
  readonly from: HopFrom
  readonly route: RouteModel
  readonly target: T
  /**
   * The object that is at fault where the route itself is: its table, or the subnet that looked it
   * up.
   */
  readonly table: string
}

/** Why a next hop loses every packet that is handed to it. */
export interface TargetFault {
  readonly code: CauseCode
  /** What failed, as `section/id`; null for the table of the route. */
  readonly object: string | null
  /** The end of a sentence that begins with the next hop, such as “is not up”. */
  readonly why: string
  /**
   * How a walk goes on beyond the fault: what is assumed, and whether the packet then takes the
   * next hop or is handed over in the most ordinary way. Null where nothing can be assumed.
   */
  readonly beyond: { readonly assumed: string; readonly then: 'follow' | 'hand-over' } | null
  /** The packet reaches the next hop and is lost there: the step that follows it reports how. */
  readonly isLostThere?: true
  /** An interface whose own packets are not lost: it takes what is addressed to it. */
  readonly sparedInterface?: number
}

/** What stands at a next hop and forwards packets: a firewall, or an interface that is in none. */
export interface Appliance {
  /** `firewalls/ID` or `interfaces/ID`. */
  readonly ref: string
  readonly isFirewall: boolean
  /** The subnet it stands in, by number; null where that is not known. */
  readonly subnet: number | null
}

/**
 * How the map draws what a next hop leads to: a mark in a column, a line between networks, or
 * nothing.
 */
export type Drawn =
  | { readonly as: 'mark'; readonly column: 'doors' | 'between'; readonly word: string }
  | { readonly as: 'line' }
  | null

/** Everything that users of a kind of next hop need. Every kind has one record, in its own file. */
export interface NextHop<T extends Target = Target> {
  readonly section: MapSection | null
  /** Whether it is found by its owner, as an address or an interface, rather than as an element. */
  readonly isOwned: boolean
  readonly drawn: Drawn
  /** The next hop in words: `nat nat-north-1`, `drop`, `address 10.10.2.4`. */
  readonly text: (target: T) => string
  /**
   * Why the next hop loses every packet handed to it in a network (by number); null where it does
   * not.
   */
  readonly fault: (model: Model, network: number, target: T) => TargetFault | null
  /** The appliance it leads to from a network; null where it leads to none. */
  readonly appliance: (model: Model, network: number, target: T) => Appliance | null
  /** Whether a packet that takes it leaves the subnet it is in, so that the boundary is asked. */
  readonly leavesSubnet: (context: WalkContext, state: State, subnet: number, target: T) => boolean
  /** Hands a packet to it, where it is not at fault. */
  readonly follow: (context: WalkContext, state: State, hop: Hop<T>) => Step
  /** Hands a packet on beyond its fault, where that differs from following it. */
  readonly followBeyond?: (context: WalkContext, state: State, hop: Hop<T>) => Step
  /**
   * What its outcome depends on besides the sender: routes with one key share what lies behind
   * them.
   */
  readonly sweepKey: (target: T, route: RouteModel) => string
}

/** What most kinds have in common; each names what differs. */
export const ORDINARY = {
  section: null,
  isOwned: false,
  drawn: null,
  fault: () => null,
  appliance: () => null,
  leavesSubnet: () => true,
} as const

/**
 * The key of an element that is there: its number; of a missing one, the object that is at fault.
 */
export const elementKey = (
  { kind, id, index }: Extract<Target, { readonly index: number }>,
  { table, origin, learnedFrom }: RouteModel,
): string => `${kind} ${index < 0 ? `${table} ${origin} ${id}` : index} ${learnedFrom}`

/** Nothing in the estate has the id that the route names. */
export const MISSING: TargetFault = {
  code: 'target-missing',
  object: null,
  why: 'is not there',
  beyond: { assumed: 'the route leads there', then: 'hand-over' },
}

/** The checks that every element has: it is there, belongs to the network, and is up. */
export function elementFault(
  network: number,
  element: { readonly ref: string; readonly network: number; readonly up: boolean } | undefined,
  elsewhere: string,
): TargetFault | null {
  if (!element) return MISSING
  if (element.network !== network) {
    const where = element.network < 0 ? 'is attached to this network' : 'belongs to this network'
    const assumed = `${element.ref} ${where}`
    const beyond = { assumed, then: 'hand-over' } as const
    return { code: 'target-elsewhere', object: element.ref, why: elsewhere, beyond }
  }
  return element.up ? null : notUp(element.ref)
}

/** The fault of an element that is not up. */
export const notUp = (ref: string): TargetFault => ({
  code: 'target-not-up',
  object: ref,
  why: 'is not up',
  beyond: { assumed: `${ref} is up`, then: 'follow' },
})
