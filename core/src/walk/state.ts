import type { Address } from '../address/address'
import type { Model, RouteModel } from '../model/model'
import type { Place } from '../rules/place'
import type { Direction } from '../rules/condition'
import type { Cause, Outcome } from './causes'
import type { Packet } from '../packet/packet'
import type { Fields, Scope } from './fields'

export type StationKind =
  | 'source'
  | 'rules'
  | 'lookup'
  | 'gateway'
  | 'nat'
  | 'firewall'
  | 'inspect'
  | 'peering'
  | 'transit'
  | 'endpoint'
  | 'frontend'
  | 'site'
  | 'internet'
  | 'delivery'

/**
 * What was asked of a packet at a station, kept so that an answer that goes back the way its
 * request came can be put to the same rules. `fields` are those the packet had when it was asked;
 * `answers` says that the packet answers a flow that was let pass there.
 */
export type AskedAt = { readonly fields: Fields } & (
  | {
      readonly of: 'host'
      readonly place: Place
      readonly direction: Direction
      readonly crosses: boolean
      readonly answers: boolean
    }
  | {
      readonly of: 'edge'
      readonly subnet: number
      readonly direction: Direction
      readonly answers: boolean
    }
  | {
      readonly of: 'policy'
      readonly firewall: number
      readonly sides: Sides | null
      readonly packet: Packet
    }
)

/** The labels of the interfaces by which a packet enters and leaves a routed firewall. */
export interface Sides {
  readonly from: string
  readonly to: string
}

/** One place a packet came to: what was decided there, and the packet after it. */
export interface Station {
  readonly at: string
  readonly kind: StationKind
  readonly decision: string
  readonly packet: Packet
  readonly evidence: object
  /** True beyond the first fault: the packet only gets here if what was assumed were so. */
  readonly assumed: boolean
  /** What rules or a policy were asked here; null where none were. */
  readonly asked: AskedAt | null
}

/**
 * A stateful firewall a packet passed, with the packet as it left: what the firewall knows of the
 * flow.
 */
export interface FirewallPass {
  readonly ref: string
  /**
   * The endpoint of an inline firewall, each of which keeps its own state; null for a routed one.
   */
  readonly endpoint: string | null
  readonly packet: Packet
  readonly fields: Fields
}

/** What one element did to a packet's addresses, so that the answer can have it undone. */
export interface Translation {
  /** The NAT, or for a one-to-one translation the network whose doors do it. */
  readonly by: string
  readonly kind: 'source' | 'destination'
  readonly before: Address
  readonly after: Address
  /** Destination translations may change the port too. */
  readonly ports?: { readonly before: number | null; readonly after: number | null }
  /** Which fields of the first packet the address and the port were before. */
  readonly origin: { readonly address: Fields['src']; readonly port: Fields['srcPort'] }
  /** The firewall's interface that gave the source, by which answers come back. */
  readonly interface?: number
}

/** Where a packet is delivered, or where a question begins. */
export type End =
  | { readonly in: 'subnet'; readonly place: Place; readonly ref: string }
  | { readonly in: 'outside'; readonly ref: string; readonly back?: Next }

/**
 * Where walks about routes alone end inside: handed to a network, without asking which host has the
 * address there.
 */
export interface InNetwork {
  readonly in: 'network'
  readonly network: number
  readonly fromSubnet: number
  readonly ref: string
}

/**
 * Where a walk about routes alone may be told to pause: what lies behind a transit is the same for
 * all who reach it.
 */
export interface AtTransit {
  readonly in: 'transit'
  readonly transit: number
  readonly attachment: string
  readonly ref: string
}

/** A flow that a frontend ended, to be answered once the one it opened instead has been. */
export interface Leg {
  readonly end: End & { in: 'subnet' }
  /** The frontend's address in the flow it opened. */
  readonly address: Address
  /** The packet as it came to the frontend. */
  readonly packet: Packet
  readonly fields: Fields
  readonly translations: readonly Translation[]
  readonly passed: readonly Place[]
  readonly allowedByEstate: readonly Place[]
  readonly firewalls: readonly FirewallPass[]
  /** All stations from the start of the walk to the frontend. */
  readonly stations: readonly Station[]
}

/** What the way back knows of the flow it answers. */
export interface Flow {
  readonly asker: End
  readonly askerAddress: Address
  readonly askerField: Fields['src']
  /** What the asker sent to, and so must hear from. */
  readonly asked: {
    readonly address: Address
    readonly port: number | null
    readonly addressField: Fields['src']
    readonly portField: Fields['srcPort']
  }
  readonly translations: readonly Translation[]
  /** The places at which an estate rule finally allowed the flow. */
  readonly allowedByEstate: readonly Place[]
  /** The interfaces the flow passed, its ends among them: their stateful rules know it. */
  readonly passed: readonly Place[]
  /** The stateful firewalls the flow passed. */
  readonly firewalls: readonly FirewallPass[]
}

/** Who sends a packet into a subnet's routing. */
export interface Sender {
  /**
   * A host, or what forwards packets: a NAT, an appliance's interface, the edge of something in the
   * subnet.
   */
  readonly kind: 'host' | 'nat' | 'appliance' | 'edge'
  readonly place: Place
  readonly ref: string
  /** A neighbour in the subnet the packet is handed to, past the subnet's table. */
  readonly handTo?: number
}

/**
 * Where the route that won was looked up: at a subnet, or at a gateway's own table, where there is
 * no subnet (−1).
 */
export interface HopFrom {
  readonly network: number
  readonly subnet: number
  readonly ref: string
}

/** What happens next to a packet. The engine leads each to its step. */
export type Next =
  | { readonly at: 'send'; readonly sender: Sender }
  | { readonly at: 'hop'; readonly from: HopFrom; readonly route: RouteModel }
  | { readonly at: 'nat'; readonly nat: number; readonly fromSubnet: number }
  | { readonly at: 'local'; readonly network: number; readonly fromSubnet: number }
  /** Handed to the internet. */
  | { readonly at: 'outside' }
  /** Handed to an interface as a next hop. */
  | { readonly at: 'forwarder'; readonly interface: number; readonly fromSubnet: number }
  /** From a site into the cloud, or back from it. */
  | { readonly at: 'site'; readonly site: string }
  /** Into a transit by one of its attachments. */
  | { readonly at: 'transit'; readonly transit: number; readonly attachment: string }
  /** From a service back through what led to it. */
  | { readonly at: 'service'; readonly by: string; readonly network: number }

/** A packet on its way: immutable, so that branches share what they have in common. */
export interface State {
  readonly next: Next
  readonly packet: Packet
  readonly fields: Fields
  readonly stations: readonly Station[]
  readonly leavesBy: string | null
  /** Source addresses the far side may see; empty until something translates. */
  readonly seenAs: readonly string[]
  readonly translations: readonly Translation[]
  /** The flows that frontends on the way ended, the first first. */
  readonly legs: readonly Leg[]
  /** On the way back: the flow's translations that are not undone yet, the last made first. */
  readonly toUndo: readonly Translation[]
  readonly allowedByEstate: readonly Place[]
  readonly passed: readonly Place[]
  /** The stateful firewalls met so far, also those that had no state for an answer. */
  readonly firewalls: readonly FirewallPass[]
  /**
   * A public NAT placed in a subnet that the packet passed and that has yet to find its way out.
   */
  readonly pendingNat: number
  readonly faults: readonly Cause[]
  readonly assumed: readonly Assumption[]
  /**
   * The places entered so far, with how many stations there were then; kept only by a walk that is
   * long enough to be a ring.
   */
  readonly visited: Visits | null
}

export interface Assumption {
  readonly direction: 'forward' | 'return'
  readonly station: number
  readonly what: string
}

export interface WalkContext {
  readonly model: Model
  readonly direction: 'forward' | 'return'
  /** On the way back: the flow that is answered. */
  readonly answers: Flow | null
  /**
   * What a walk is about: a packet between hosts, or routes alone. Routes alone ask no rules, and
   * end where a network or the internet has the packet, without asking for the owner of the
   * address.
   */
  readonly about: 'packets' | 'routes'
  /**
   * Every rule and policy lets every packet pass: what is asked is where packets go, not who may
   * send them.
   */
  readonly ignoresRules: boolean
  /**
   * Rules of hosts and subnets are not asked but noted as stations: who walks asks them as sets
   * afterwards (`flows/gates.ts`). Policies of firewalls are asked.
   */
  readonly defersRules: boolean
  /** Routes alone, only as far as the first transit. */
  readonly pausesAtTransits: boolean
  /**
   * For all hosts of a kind in a network: what is asked of a source there (whether it has a public
   * address, which region it is in, whether an answer finds it) is known to be the same for all of
   * them. Null where a walk stands for one host.
   */
  readonly home: number | null
  /** Every source that is meant is public. */
  readonly publicSources: boolean
  readonly evidence: boolean
  /** Places of rules that paths of equal cost do not meet beyond, if only one of them passed it. */
  readonly keptApart: ReadonlySet<string> | undefined
  /** Told every place of rules that an answer was looked up at, as `placeKey` names it. */
  readonly noteAsked: ((place: string) => void) | undefined
  /**
   * Where it is asked for: the packets for which all of this would have been the same. Every step
   * narrows it in place.
   */
  readonly scope: Scope | null
  /** Go on past faults as if they were mended. */
  readonly beyondFaults: boolean
}

/** One finished walk. */
export interface Walked {
  readonly outcome: Outcome
  readonly cause: Cause | null
  readonly deliveredAt: End | InNetwork | AtTransit | null
  readonly state: State
  /** The walk whose end this one shares, since their paths met (`meeting.ts`). */
  readonly like?: Walked
}

/** What a step makes of a state: where it goes on and where it ends; several are branches. */
export type Step = readonly (State | Walked)[]

/** Whether a walk has ended. */
export const isWalked = (item: State | Walked): item is Walked => 'outcome' in item

/** The latest visit, and those before it: branches share what they have in common. */
export interface Visits {
  readonly latest: Visit
  readonly before: Visits | null
}

/** A place a walk entered, with the packet as it was then, and how many stations there were. */
export interface Visit {
  readonly place: string
  readonly packet: State['packet']
  readonly fields: State['fields']
  readonly stations: number
}
