import { familyOf, highestOf, lowestOf, type Address } from '../address/address'
import { matchAll, type PrefixTable } from '../address/prefix-table'
import type { Model, NetworkModel, RouteModel, SubnetModel } from '../model/model'

/** What a host, or an appliance that sends packets on, brings to route choice. */
export interface RoutingSender {
  /** Asked only for routes with `onlyTags`. */
  readonly hasTag: (key: string) => boolean
  /** Asked only for the service switch of priority-routed networks. */
  readonly hasPublicAddress: () => boolean
  /**
   * The routes of a table that are for this sender; left out, those limited to other tags are
   * candidates too, and lose.
   */
  readonly own?: (table: PrefixTable<RouteModel>) => PrefixTable<RouteModel>
}

/** Why a candidate is where it is. Each loser names what it lost against. */
export type Reason =
  | 'won'
  | 'equal-cost'
  /** A longer prefix matched. */
  | 'shorter-prefix'
  /** Same prefix, but its origin comes later in this network's order. */
  | 'later-origin'
  /** A higher number than the winner's priority. */
  | 'higher-priority-number'
  /** A built-in local route matched, and learned or peering routes are then no candidates. */
  | 'local-excludes'
  /** Built-in local and peering routes of a priority-routed network are not overridden. */
  | 'built-in-stands'
  /** The route is pending or down. */
  | 'not-in-force'
  /** Limited to tags that the sender does not carry. */
  | 'tag-not-carried'
  /** Its next hop is not up, and this network passes such routes over. */
  | 'next-hop-passed-over'
  /** The subnet's service switch takes the place of the winning route. */
  | 'switched'

export interface Candidate {
  readonly route: RouteModel
  readonly reason: Reason
  /** The candidate that beat it. */
  readonly against: RouteModel | null
}

export interface LookUp {
  /** One, or several of equal cost; none is no route. */
  readonly winners: readonly RouteModel[]
  /** Every route that covers the address, in no order. */
  readonly covering: readonly RouteModel[]
  /** The same in the order of preference, each with the reason; found when it is asked for. */
  readonly candidates: () => readonly Candidate[]
  /** The destinations around the address for which this very answer holds. */
  readonly from: Address
  readonly to: Address
}

/** Whether a route's next hop is there and up; asked only where dead next hops are passed over. */
export type NextHopUp = (route: RouteModel) => boolean

/**
 * Chooses the route for `address` at `subnet`: design part 3.1, after longest-prefix forwarding as
 * in RFC 1812, 5.2.4.3. Every covering route is returned with the reason it won or lost.
 */
export function lookUp(
  model: Model,
  subnet: SubnetModel,
  address: Address,
  sender: RoutingSender,
  nextHopUp: NextHopUp,
): LookUp {
  const network = model.networks[subnet.network]!
  const family = familyOf(address)
  const covering: RouteModel[] = []
  let from = lowestOf(family)
  let to = highestOf(family)
  const match = (table: PrefixTable<RouteModel>): void => {
    if (table.size === 0) return
    const met = matchAll(table, address)
    if (met.from > from) from = met.from
    if (met.to < to) to = met.to
    for (const group of met.groups) covering.push(...group.values)
  }
  match(network.builtIn)
  match(subnet.learned)
  match(subnet.switched)
  if (subnet.table >= 0) {
    const { routes } = model.tables[subnet.table]!
    match(sender.own?.(routes) ?? routes)
  }
  const { winners, candidates } =
    network.behaviour === 'priority-routed'
      ? choosePriority(model, covering, sender, nextHopUp)
      : chooseByPrefix(network, covering)
  return { winners, covering, candidates, from, to }
}

type Choice = Pick<LookUp, 'winners' | 'candidates'>

/** How the routes that cover an address stand to each other in one kind of network. */
interface Preference {
  /** Why a route is no candidate; null where it is one. */
  readonly unusable: (route: RouteModel) => Reason | null
  /** What two usable routes with prefixes of one length are told apart by; the lower wins. */
  readonly rank: (route: RouteModel) => number
  /** Why a route of a higher rank loses. */
  readonly outranked: Reason
  /** The built-in route that keeps others out, if there is one. */
  readonly standing: RouteModel | null
}

function choose(routes: readonly RouteModel[], preference: Preference): Choice {
  const { unusable, rank } = preference
  const compare = (a: RouteModel, b: RouteModel): number =>
    b.prefix.length - a.prefix.length || rank(a) - rank(b)
  let winners: RouteModel[] = []
  for (const route of routes) {
    if (unusable(route) !== null) continue
    const order = winners.length === 0 ? -1 : compare(route, winners[0]!)
    if (order < 0) winners = [route]
    else if (order === 0) winners.push(route)
  }
  if (winners.length > 1) winners.sort(place)
  const candidates = (): readonly Candidate[] =>
    [...routes]
      .sort(
        (a, b) =>
          Number(unusable(a) !== null) - Number(unusable(b) !== null) ||
          compare(a, b) ||
          place(a, b),
      )
      .map((route) => told(route, winners, preference))
  return { winners, candidates }
}

/** A candidate with the reason why it won or lost, and what it lost against. */
function told(
  route: RouteModel,
  winners: readonly RouteModel[],
  { unusable, outranked, standing }: Preference,
): Candidate {
  const [best] = winners
  const why = unusable(route)
  if (!best) return { route, reason: why!, against: standing }
  if (winners.includes(route))
    return { route, reason: winners.length > 1 ? 'equal-cost' : 'won', against: null }
  const reason = why ?? (route.prefix.length < best.prefix.length ? 'shorter-prefix' : outranked)
  const isByBuiltIn = reason === 'local-excludes' || reason === 'built-in-stands'
  return { route, reason, against: isByBuiltIn ? standing : best }
}

/**
 * Where origins stand behind equal prefixes; the service switch is overridden by nothing of its
 * length.
 */
function originRank(network: NetworkModel, route: RouteModel): number {
  if (route.target.kind === 'service-switch') return 0
  if (route.origin === 'table') return 1
  if (route.origin === 'learned') return network.behaviour === 'table-routed' ? 4 : 2
  // A peer's range stands before the built-in drop of the same private range, which only fills
  // unused space.
  return route.target.kind === 'drop' ? 3.5 : 3
}

/** Table-routed and default-open networks. */
function chooseByPrefix(network: NetworkModel, covering: readonly RouteModel[]): Choice {
  const local = longestLocal(covering)
  // Only a table route of the same or a longer prefix overrides local; nothing else is a candidate
  // beside it.
  const unusable = (route: RouteModel): Reason | null => {
    const { state, origin, target } = route
    if (state !== 'up') return 'not-in-force'
    if (local === null || origin === 'table') return null
    return target.kind === 'local' || target.kind === 'service-switch' ? null : 'local-excludes'
  }
  return choose(covering, {
    unusable,
    rank: (route) => originRank(network, route),
    outranked: 'later-origin',
    standing: local,
  })
}

function longestLocal(covering: readonly RouteModel[]): RouteModel | null {
  let best: RouteModel | null = null
  for (const route of covering) {
    if (
      route.origin === 'built-in' &&
      route.target.kind === 'local' &&
      (best === null || route.prefix.length > best.prefix.length)
    )
      best = route
  }
  return best
}

/** Priority-routed networks. */
function choosePriority(
  model: Model,
  covering: readonly RouteModel[],
  sender: RoutingSender,
  nextHopUp: NextHopUp,
): Choice {
  const standing = longestLocal(covering) ?? longestPeering(covering)
  const switched = covering.filter((route) => route.target.kind === 'service-switch')
  const routes = covering.filter((route) => route.target.kind !== 'service-switch')
  const unusable = (route: RouteModel): Reason | null => {
    if (route.state !== 'up') return 'not-in-force'
    if (route.onlyTags !== null && !route.onlyTags.some(sender.hasTag)) return 'tag-not-carried'
    if (standing !== null && !isStanding(route, standing)) return 'built-in-stands'
    if (
      route.origin === 'table' &&
      (route.target.kind === 'interface' || route.target.kind === 'address') &&
      !nextHopUp(route)
    )
      return 'next-hop-passed-over'
    return null
  }
  const why = new Map(routes.map((route) => [route, unusable(route)]))
  const choice = choose(routes, {
    unusable: (route) => why.get(route)!,
    rank: ({ priority }) => priority,
    outranked: 'higher-priority-number',
    standing,
  })
  return switched.length === 0 ? choice : switchServices(model, choice, switched, sender)
}

/** Service switches take what would leave by an internet gateway, for hosts that cannot leave. */
function switchServices(
  model: Model,
  choice: Choice,
  switched: readonly RouteModel[],
  sender: RoutingSender,
): Choice {
  const byGateway = choice.winners.filter(
    (route) =>
      route.target.kind === 'gateway' && model.gateways[route.target.index]?.kind === 'internet',
  )
  if (byGateway.length === 0 || sender.hasPublicAddress()) return choice
  const longest = switched.reduce((a, b) => (b.prefix.length > a.prefix.length ? b : a))
  const winners = [longest, ...choice.winners.filter((route) => !byGateway.includes(route))]
  return {
    winners,
    candidates: () => [
      { route: longest, reason: winners.length > 1 ? 'equal-cost' : 'won', against: null },
      ...choice
        .candidates()
        .map((c) =>
          byGateway.includes(c.route)
            ? { route: c.route, reason: 'switched' as const, against: longest }
            : c,
        ),
    ],
  }
}

function longestPeering(covering: readonly RouteModel[]): RouteModel | null {
  let best: RouteModel | null = null
  for (const route of covering) {
    if (
      route.origin === 'built-in' &&
      route.target.kind === 'peering' &&
      (best === null || route.prefix.length > best.prefix.length)
    )
      best = route
  }
  return best
}

/** Whether a route is the built-in one that stands, or another peering to the very same range. */
const isStanding = (route: RouteModel, standing: RouteModel): boolean =>
  route === standing ||
  (route.origin === 'built-in' &&
    route.target.kind === standing.target.kind &&
    standing.target.kind === 'peering' &&
    route.prefix.length === standing.prefix.length)

/** Equal routes in the order in which they were written. */
const place = (a: RouteModel, b: RouteModel): number => a.entry - b.entry
