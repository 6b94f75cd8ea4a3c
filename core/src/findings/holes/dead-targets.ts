import { ledTo } from '../deciding'
import { familyOf } from '../../address/address'
import { type Prefix, formatPrefix } from '../../address/prefix'
import { rangeSet, type Range } from '../../address/ranges'
import type { HopTable } from '../../hops/hops'
import { cached, lazy } from '../../incremental/cells'
import type { InterfaceModel, Model, RouteModel, SubnetModel, TableModel } from '../../model/model'
import { targetRef, type Target } from '../../model/targets'
import type { Question } from '../../trace/question'
import type { TargetFault } from '../../walk/next-hops/next-hop'
import { faultOf, isOwned } from '../../walk/next-hops/registry'
import { type Finding, finding } from '../finding'
import { usersOf } from '../table-routes'
import { removeRoutes } from '../../mend/recipes/routes'
import { routesOf } from '../../model/present'
import { firstShowing, MOST_HOSTS, type Shows } from '../shown'
import { type CheckContext, nameOf, listText, FAMILIES } from '../survey'

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
    const question = questionBy(survey, won(), routes, found)
    const unused = question ? '' : ' Nothing is sent there now.'
    return finding({
      code: owned ? 'hole-next-hop' : 'hole-dead-target',
      severity: question ? 'high' : 'low',
      anchor: table.ref,
      objects: [
        table.ref,
        owned ? found.object : targetRef(target),
        ...users.map(({ ref }) => ref),
      ],
      sentence: owned
        ? `${table.id} sends ${listText(prefixes)} to a next hop that loses it: ${found.why}.${unused}`
        : `${table.id} sends ${listText(prefixes)} to ${name}, which ${found.why}.${unused}`,
      root: { kind: 'route', object: table.ref, part: ledTo(target) },
      part: key,
      ranges: routes.map((route) => formatPrefix(route.prefix)),
      ...(question && { question }),
      mend:
        question === null
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

/** Destinations that a route wins for a kind of host. */
interface Won {
  readonly subnet: SubnetModel
  readonly table: HopTable
  readonly ranges: Range[]
}

/**
 * For each route of a table, the first kinds of host for which it wins some destinations. One pass
 * over the ranges of all subnets serves all routes.
 */
function wonAt(
  survey: CheckContext,
  users: readonly SubnetModel[],
): ReadonlyMap<RouteModel, readonly Won[]> {
  const found = new Map<RouteModel, Won[]>()
  for (const subnet of users) {
    for (const table of survey.tablesOf(subnet)) {
      for (const family of FAMILIES) {
        for (const { from, to, hop } of table.shared[family]) {
          for (const route of hop.winners) {
            const known = cached(found, route, (): Won[] => [])
            const last = known.at(-1)
            const isOfThis = last?.table === table && familyOf(last.ranges[0]!.from) === family
            if (isOfThis) last.ranges.push({ from, to })
            else if (known.length <= MOST_HOSTS)
              known.push({ subnet, table, ranges: [{ from, to }] })
          }
        }
      }
    }
  }
  return found
}

/** A question whose packet some routes win and lose; null where none of them does. */
function questionBy(
  survey: CheckContext,
  won: ReadonlyMap<RouteModel, readonly Won[]>,
  routes: readonly RouteModel[],
  { code }: TargetFault,
): Question | null {
  const all = routes.flatMap((route) => won.get(route) ?? [])
  const shows: Shows = ({ cause }) => cause?.code === code || cause?.inner?.code === code
  return firstShowing(
    survey,
    all.map((one) => ({ ...one, ranges: rangeSet(one.ranges) })),
    shows,
  )
}
