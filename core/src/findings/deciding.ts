import { familyOf, formatAddress, type Address } from '../address/address'
import { firstFrom } from '../address/ranges'
import { byOwner } from '../addresses/named-space'
import type { HopTable } from '../hops/hops'
import type { Outcome } from '../hops/outcome'
import type { Model, RouteModel, SubnetModel } from '../model/model'
import { targetRef, type Target } from '../model/targets'
import type { CauseCode } from '../walk/causes'
import { attributeOf, missingIn, type Root } from './root'

/** A kind of host, and the destination whose way is asked for. */
export interface Way {
  readonly model: Model
  readonly subnet: SubnetModel
  readonly hosts: HopTable
  readonly dst: Address
}

/** Whom an address belongs to, as a root names it: `internet`, `sites/yard`, `private`. */
const ownerOf = (model: Model, address: Address): string =>
  byOwner(model, [{ from: address, to: address }])[0]?.owner ?? 'internet'

/** Where a route leads, as a root names it. */
export const ledTo = (target: Target): string =>
  targetRef(target) ?? ('address' in target ? formatAddress(target.address) : target.kind)

/** Where a subnet looks up: its table, or the subnet itself. */
export const looksUpIn = (model: Model, { table, ref }: SubnetModel): string =>
  model.tables[table]?.ref ?? ref

/** The route that wins at a subnet for a destination; null where none does. */
function winnerOf({ hosts, dst }: Way): RouteModel | null {
  const ranges = hosts.shared[familyOf(dst)]
  return ranges[firstFrom(ranges, dst)]?.hop.winners[0] ?? null
}

/**
 * The route that decides the way of some packets at their subnet, or that there is none. Costs a
 * look-up among the ranges of the subnet, and one among the owners of space.
 */
export function rootOfWay(way: Way): Root {
  const { model, subnet, dst } = way
  const winner = winnerOf(way)
  return winner === null
    ? { kind: 'missing-route', object: looksUpIn(model, subnet), part: ownerOf(model, dst) }
    : rootOfRoute(model, subnet, winner)
}

/** A route as what decides. */
export function rootOfRoute(model: Model, subnet: SubnetModel, route: RouteModel): Root {
  const part = ledTo(route.target)
  const table = model.tables[route.table]
  if (route.origin === 'table' && table) return { kind: 'route', object: table.ref, part }
  if (route.learnedFrom !== null) return { kind: 'learned-route', object: route.learnedFrom, part }
  return { kind: 'built-in-route', object: model.networks[subnet.network]!.ref, part }
}

/**
 * What lets packets go round an object that others pass, such as a firewall: the written route that
 * leads them another way, or that the table has none to it.
 */
export function rootOfGoingRound(way: Way, guard: string): Root {
  const { model, subnet } = way
  const winner = winnerOf(way)
  return winner?.origin === 'table' && winner.target.kind !== 'peering'
    ? rootOfRoute(model, subnet, winner)
    : { kind: 'missing-route', object: looksUpIn(model, subnet), part: guard }
}

type Cause = NonNullable<Outcome['cause']>

/** What a cause says of the root: with the way its packets took at their subnet. */
type RootOfCause = (cause: Cause, way: Way) => Root

const byWay: RootOfCause = (_, way) => rootOfWay(way)
const ofObject =
  (part: string): RootOfCause =>
  ({ object }) =>
    attributeOf(object, part)
const lackedBy =
  (part: string): RootOfCause =>
  ({ object }) =>
    missingIn(object, part)
const rules: RootOfCause = ({ object }) => ({ kind: 'rule', object, part: '' })

/** A transit's or firewall's own routes and attachments are the transit's; others' the table's. */
const byWayOr =
  (part: string): RootOfCause =>
  (cause, way) =>
    /^(transits|firewalls)\//.test(cause.object) ? attributeOf(cause.object, part) : rootOfWay(way)

/** By cause, what decides that packets are lost so. A cause without an entry is a type error. */
const ROOT_OF_CAUSE: Record<CauseCode, RootOfCause> = {
  'denied-estate': rules,
  'denied-local': rules,
  'denied-interface': rules,
  'denied-subnet': rules,
  'denied-boundary': rules,
  'denied-policy': rules,
  'nat-outbound-only': byWay,
  'gateway-outbound-only': byWay,
  'gateway-wrong-family': byWay,
  'no-route': ({ object }, { model, dst }) => ({
    kind: 'missing-route',
    object,
    part: ownerOf(model, dst),
  }),
  'drop-route': byWayOr('routes'),
  'no-such-subnet': byWay,
  'interface-not-up': ofObject('state'),
  'target-missing': byWayOr('attachments'),
  'target-not-up': ofObject('state'),
  'target-elsewhere': byWayOr('attachments'),
  'no-public-address': (_, { subnet }) => missingIn(subnet.ref, 'publicAddress'),
  'private-destination': byWay,
  'no-internet-gateway': ({ object }) => ({ kind: 'missing-object', object, part: 'gateways' }),
  'nobody-has-it': byWay,
  'nat-no-address': lackedBy('addresses'),
  'nat-other-region': ofObject('placement'),
  'nat-does-not-serve': ofObject('serves'),
  'nat-wrong-family': byWay,
  'nat-without-way-out': ({ object, inner }, way) => rootOfNat(object, inner ?? null, way),
  'nat-no-flow': byWay,
  'next-hop-missing': byWay,
  'next-hop-not-up': ofObject('state'),
  'next-hop-not-forwarding': ofObject('forwards'),
  'next-hop-in-other-network': byWay,
  'answer-from-other-address': byWay,
  'no-state': byWay,
  'return-bypasses-firewall': byWay,
  'peering-not-transitive': byWay,
  'forwarded-refused': ofObject('acceptsForwarded'),
  'site-does-not-have-it': byWay,
  'site-has-no-route': lackedBy('routes'),
  'site-has-no-route-back': lackedBy('routes'),
  'transit-not-in-zone': ofObject('attachments'),
  'wrong-service': byWay,
  'service-other-region': byWay,
  'no-listener': lackedBy('listeners'),
  'name-unknown': byWay,
  'answer-to-other-host': byWay,
  looped: ({ object }) => ({ kind: 'ring', object, part: '' }),
}

/** What decides that packets are lost. Costs as `rootOfWay` does. */
export const rootOfLoss = (cause: Cause, way: Way): Root => ROOT_OF_CAUSE[cause.code](cause, way)

/** What decides that a translator has no way out: what loses the packets it sends. */
export function rootOfNat(
  nat: string,
  inner: Cause['inner'] | null,
  { model, dst }: Omit<Way, 'subnet' | 'hosts'>,
): Root {
  if (!inner) return attributeOf(nat, 'placement')
  return inner.code === 'no-route'
    ? { kind: 'missing-route', object: inner.object, part: ownerOf(model, dst) }
    : attributeOf(nat, 'placement')
}
