import type { ModelShape } from '../incremental/tracked-model'
import type { Address } from '../address/address'
import type { ObjectNumbers, Target } from './targets'
import type { Prefix } from '../address/prefix'
import type { PrefixTable } from '../address/prefix-table'
import type { RangeSet } from '../address/ranges'
import type {
  Estate,
  EstateObject,
  Firewall,
  Gateway,
  Nat,
  NetworkInterface,
  RouteTable,
  Subnet,
} from '../format/estate'

/**
 * An estate compiled for questions: ids turned into dense numbers (an object's place in its
 * section), texts into addresses, routes into prefix tables. It never changes.
 *
 * Objects in state `deleted` count as missing: they keep their number, but nothing leads to them.
 */
export interface Model {
  readonly estate: Estate
  readonly networks: readonly NetworkModel[]
  readonly subnets: readonly SubnetModel[]
  readonly interfaces: readonly InterfaceModel[]
  readonly tables: readonly TableModel[]
  readonly gateways: readonly GatewayModel[]
  readonly nats: readonly NatModel[]
  readonly peerings: readonly PeeringModel[]
  readonly transits: readonly TransitModel[]
  readonly firewalls: readonly FirewallModel[]
  readonly frontends: readonly FrontendModel[]
  /** The routed firewall an interface belongs to, by the interface's number. */
  readonly firewallAt: ReadonlyMap<number, FirewallSide>
  /** The addressed endpoint an interface belongs to, by the interface's number. */
  readonly endpointAt: ReadonlyMap<number, string>
  /** From an id to the number of its object, per section; deleted objects are left out. */
  readonly index: ObjectNumbers
  /** What stands at a network, by its number; each list in the order of ids. */
  readonly attached: {
    readonly gateways: ReadonlyMap<number, readonly GatewayModel[]>
    readonly nats: ReadonlyMap<number, readonly NatModel[]>
    readonly peerings: ReadonlyMap<number, readonly PeeringModel[]>
  }
  /** By which gateways a site comes in. */
  readonly entrances: ReadonlyMap<string, readonly Entrance[]>
  /** The owner that answers to a public address from outside. */
  readonly publicOwners: ReadonlyMap<Address, Owner>
  /** Reserved public addresses, with or without an owner. */
  readonly inventory: ReadonlySet<Address>
  readonly networkSpace: PrefixTable<number>
  readonly subnetSpace: PrefixTable<number>
  readonly siteSpace: PrefixTable<string>
  readonly serviceSpace: PrefixTable<string>
  readonly partySpace: PrefixTable<string>
  /**
   * Every public address that is in no network's ranges: what `internet` means as a peer or
   * destination.
   */
  readonly internetSpace: RangeSet
}

/**
 * How a tracked model is read. Lists of the estate and ranges of addresses are read as a whole:
 * a reader of one entry reads all of them.
 */
export const MODEL_SHAPE: ModelShape = {
  nested: new Set(['estate', 'index', 'attached']),
  isWhole: (path) => path === 'internetSpace' || path.startsWith('estate.'),
}

/**
 * What every compiled object has: its number, its id, its name as `section/id`, and whether it
 * carries traffic.
 */
export interface Compiled {
  readonly index: number
  readonly id: string
  readonly ref: string
  readonly up: boolean
}

/** The owner of an address: packets to the address are handed to it. */
export interface Owner {
  readonly kind: 'interface' | 'nat' | 'frontend' | 'one-to-one' | 'firewall'
  /**
   * The number of the object; for a one-to-one translation that of the network whose doors undo it.
   */
  readonly index: number
}

export type Behaviour = 'table-routed' | 'default-open' | 'priority-routed'

export interface NetworkModel extends Compiled {
  readonly behaviour: Behaviour
  readonly region: string | null
  readonly levels: 'every' | 'any'
  readonly implicitEgress: boolean
  readonly ranges: readonly Prefix[]
  readonly subnets: readonly number[]
  readonly owners: ReadonlyMap<Address, Owner>
  readonly subnetSpace: PrefixTable<number>
  readonly builtIn: PrefixTable<RouteModel>
}

export interface SubnetModel extends Compiled {
  readonly network: number
  readonly zone: string | null
  readonly region: string | null
  readonly ranges: readonly Prefix[]
  readonly allRanges: readonly Prefix[]
  /** The table in force here (its own, else its network's default), or −1. */
  readonly table: number
  /** True where the table is the subnet's own. */
  readonly ownTable: boolean
  readonly learned: PrefixTable<RouteModel>
  readonly switched: PrefixTable<RouteModel>
  readonly boundary: number
  readonly ruleSets: readonly number[]
  readonly interfaces: readonly number[]
  readonly givesPublicAddresses: boolean
  readonly role: string | null
  readonly source: Subnet
}

export interface InterfaceModel extends Compiled {
  readonly subnet: number
  readonly addresses: readonly Address[]
  readonly publicAddress: Address | null
  readonly host: string
  readonly ruleSets: readonly number[]
  readonly localRules: number
  readonly forwards: boolean
  readonly source: NetworkInterface
}

export interface TableModel extends Compiled {
  readonly network: number
  readonly routes: PrefixTable<RouteModel>
  readonly source: RouteTable
}

export interface GatewayModel extends Compiled {
  readonly kind: Gateway['kind']
  readonly network: number
  readonly table: number
  readonly site: string | null
}

export interface NatModel extends Compiled {
  readonly kind: 'public' | 'private'
  readonly network: number
  readonly subnet: number
  readonly region: string | null
  readonly addresses: readonly Address[]
  /** Lowest order first. */
  readonly rules: readonly {
    readonly order: number
    readonly to: RangeSet
    readonly use: readonly Address[]
  }[]
  readonly draining: ReadonlySet<Address>
  readonly source: Nat
}

export interface PeeringModel extends Compiled {
  readonly a: PeeringSide
  readonly b: PeeringSide
}

export interface PeeringSide {
  readonly network: number
  readonly acceptsForwarded: boolean
  readonly usesPeerGateway: boolean
  readonly lendsGateway: boolean
}

export interface FrontendModel extends Compiled {
  readonly network: number
  readonly subnet: number
  /** The addresses it takes flows at and opens its own from, the first of a family. */
  readonly addresses: readonly Address[]
  readonly ruleSets: readonly number[]
  readonly listeners: readonly {
    readonly protocol: number | null
    readonly port: number
    readonly targetPort: number
    readonly targets: readonly number[]
  }[]
}

export interface FirewallSide {
  readonly firewall: number
  readonly label: string
}

export interface FirewallModel extends Compiled {
  readonly style: 'routed' | 'inline'
  readonly stateful: boolean
  /** Routed: its interfaces that are there, with their labels. */
  readonly interfaces: readonly { readonly label: string; readonly interface: number }[]
  /** Routed: its own routes; null where it has none. */
  readonly routes: PrefixTable<Address | 'drop'> | null
  readonly source: Firewall
}

export interface TransitModel extends Compiled {
  readonly source: EstateObject<'transits'>
  /** The attachment of a network, by its number. */
  readonly attachmentOf: ReadonlyMap<number, string>
  /** The attachment that leads to another transit, by that one’s id. */
  readonly towards: ReadonlyMap<string, string>
  readonly tables: ReadonlyMap<string, PrefixTable<TransitRoute>>
}

export interface TransitRoute {
  readonly prefix: Prefix
  readonly via: string
  readonly learned: boolean
}

/** One way in from a site: a private gateway with what it announces, and what stands behind it. */
export interface Entrance {
  readonly gateway: number
  readonly announces: PrefixTable<number>
  readonly transit: { readonly index: number; readonly attachment: string } | null
  /** The networks behind the gateway's own that use it. */
  readonly users: readonly number[]
}

export type Origin = 'table' | 'built-in' | 'learned'

export interface RouteModel {
  readonly prefix: Prefix
  readonly target: Target
  readonly origin: Origin
  /** The table it stands in and its place there, or −1. */
  readonly table: number
  readonly entry: number
  /** Lower wins; only priority-routed networks ask. */
  readonly priority: number
  readonly onlyTags: readonly string[] | null
  readonly state: 'up' | 'pending' | 'down'
  /** The list or service the route was written to, if it was not written to a prefix. */
  readonly writtenTo: string | null
  /** What a learned route was learned from, as `section/id`. */
  readonly learnedFrom: string | null
}
