import { ledTo } from '../deciding'
import { familyOf, formatAddress } from '../../address/address'
import { type Prefix, formatPrefix } from '../../address/prefix'
import { firstFrom } from '../../address/ranges'
import type { HopRange } from '../../hops/sweep'
import type { HopTable } from '../../hops/hops'
import { lazy } from '../../incremental/cells'
import type { InterfaceModel, Model, RouteModel, SubnetModel, TableModel } from '../../model/model'
import { targetRef, type Target } from '../../model/targets'
import type { Question } from '../../trace/question'
import type { TargetFault } from '../../walk/next-hops/next-hop'
import { faultOf, isOwned } from '../../walk/next-hops/registry'
import { lowestInternetAddress } from '../../walk/public-address'
import { type Finding, finding } from '../finding'
import { usersOf } from '../table-routes'
import { removeRoutes } from '../../mend/recipes/routes'
import { routesOf } from '../../model/present'
import { type CheckContext, nameOf, listText, FAMILIES, fromText, internetText } from '../survey'

/** Why packets by a route are lost at its next hop, whatever they are; null where they are not. */
function faultOfRoute(model: Model, network: number, route: RouteModel): TargetFault | null {
  const fault = faultOf(model, network, route.target)
  // A host takes what is addressed to it whether it forwards or not.
  const spared = model.interfaces[fault?.sparedInterface ?? -1]
  return spared && isAddressOf(spared, route.prefix) ? null : fault
}

/** Whether a prefix is just one address of an interface. */
const isAddressOf = ({ addresses }: InterfaceModel, { address, length }: Prefix): boolean =>
  length === (typeof address === 'number' ? 32 : 128) && addresses.includes(address)

/**
 * Routes of a table whose next hop is missing, not up or elsewhere: one finding for each next hop.
 */
export function deadTargets(survey: CheckContext, table: TableModel): Finding[] {
  const { model } = survey
  const network = model.networks[table.network]!
  const byTarget = new Map<string, { routes: RouteModel[]; fault: TargetFault }>()
  for (const route of routesOf(table)) {
    if (route.state !== 'up' || route.entry < 0) continue
    const found = faultOfRoute(model, network.index, route)
    if (!found) continue
    const key = `${isOwned(route.target)} ${targetKey(route.target)}`
    const known = byTarget.get(key)
    if (known) known.routes.push(route)
    else byTarget.set(key, { routes: [route], fault: found })
  }
  const subnets = usersOf(survey, table)
  const carrying = lazy(() => byTag(survey, subnets))
  const won = lazy(() => wonAt(survey, subnets))
  return [...byTarget].map(([key, { routes, fault: found }]) => {
    const prefixes = [
      ...new Set(routes.map((route) => route.writtenTo ?? formatPrefix(route.prefix))),
    ]
    const { target } = routes[0]!
    const all = routes.some(({ onlyTags }) => onlyTags === null)
    const users = all
      ? subnets
      : [
          ...new Set(
            routes.flatMap((one) => one.onlyTags!.flatMap((tag) => carrying().get(tag) ?? [])),
          ),
        ]
    const owned = isOwned(target)
    const name = nameOf(targetRef(target) ?? key)
    const question = questionBy(survey, won(), routes)
    return finding({
      code: owned ? 'hole-next-hop' : 'hole-dead-target',
      severity: users.length > 0 ? 'high' : 'low',
      anchor: table.ref,
      objects: [
        table.ref,
        owned ? found.object : targetRef(target),
        ...users.map(({ ref }) => ref),
      ],
      sentence: owned
        ? `${table.id} sends ${listText(prefixes)} to a next hop that loses it: ${found.why}.`
        : `${table.id} sends ${listText(prefixes)} to ${name}, which ${found.why}.`,
      root: { kind: 'route', object: table.ref, part: ledTo(target) },
      part: key,
      ranges: routes.map((route) => formatPrefix(route.prefix)),
      question,
      mend:
        question === undefined
          ? removeRoutes(
              survey.model.estate,
              table.id,
              routes.map((route) => route.entry),
            )
          : null,
    })
  })
}

/** A next hop as part of a fingerprint. */
function targetKey(target: Target): string {
  if ('address' in target) return String(target.address)
  return 'id' in target ? `${target.kind} ${target.id}` : ''
}

/** The subnets that have hosts with each of the tags that routes are limited to. */
function byTag(
  survey: CheckContext,
  subnets: readonly SubnetModel[],
): ReadonlyMap<string, readonly SubnetModel[]> {
  const found = new Map<string, SubnetModel[]>()
  for (const subnet of subnets)
    for (const tag of new Set(survey.tablesOf(subnet).flatMap(({ kind }) => kind.tags)))
      if (!found.get(tag)?.push(subnet)) found.set(tag, [subnet])
  return found
}

/** Where packets of a table's users are, for each route that wins some of them. */
interface Won {
  readonly subnet: SubnetModel
  readonly table: HopTable
  readonly range: HopRange
}

/**
 * For each route of a table, destinations that it wins at the first of some subnets, those that are
 * lost first. One pass over the ranges of all subnets serves all routes.
 */
function wonAt(survey: CheckContext, users: readonly SubnetModel[]): ReadonlyMap<RouteModel, Won> {
  const found = new Map<RouteModel, Won>()
  for (const subnet of users) {
    for (const table of survey.tablesOf(subnet)) {
      for (const range of FAMILIES.flatMap((family) => table.shared[family])) {
        for (const route of range.hop.winners) {
          const known = found.get(route)
          const isBetter = known?.table === table && known.range.hop.cause === null
          if (known === undefined || (isBetter && range.hop.cause !== null))
            found.set(route, { subnet, table, range })
        }
      }
    }
  }
  return found
}

/** A question whose packet some routes win: asked from the first subnet that looks them up. */
function questionBy(
  { model }: CheckContext,
  won: ReadonlyMap<RouteModel, Won>,
  routes: readonly RouteModel[],
): Question | undefined {
  const all = routes.flatMap((route) => won.get(route) ?? [])
  // What is addressed to a next hop itself arrives there.
  const one = all.find(({ range }) => range.hop.cause !== null) ?? all[0]
  if (one === undefined) return undefined
  const { subnet, table, range } = one
  const family = familyOf(range.from)
  const outside = lowestInternetAddress(model, family)
  const there = table.shared[family][firstFrom(table.shared[family], outside)]
  const wins = there?.hop.winners.some((route) => routes.includes(route)) ?? false
  return {
    from: fromText(model, subnet, table),
    to: wins ? internetText(model, family) : formatAddress(range.from),
  }
}
