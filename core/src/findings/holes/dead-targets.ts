import { ledTo } from '../deciding'
import { formatAddress } from '../../address/address'
import { type Prefix, formatPrefix } from '../../address/prefix'
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
  const users = subnets.map((subnet) => subnet.ref)
  return [...byTarget].map(([key, { routes, fault: found }]) => {
    const prefixes = [
      ...new Set(routes.map((route) => route.writtenTo ?? formatPrefix(route.prefix))),
    ]
    const { target } = routes[0]!
    const owned = isOwned(target)
    const name = nameOf(targetRef(target) ?? key)
    const question = questionBy(survey, subnets, routes)
    return finding({
      code: owned ? 'hole-next-hop' : 'hole-dead-target',
      severity: users.length > 0 ? 'high' : 'low',
      anchor: table.ref,
      objects: [table.ref, owned ? found.object : targetRef(target), ...users],
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

/** A question whose packet some routes win: asked from the first subnet that looks them up. */
function questionBy(
  survey: CheckContext,
  users: readonly SubnetModel[],
  routes: readonly RouteModel[],
): Question | undefined {
  for (const subnet of users) {
    for (const table of survey.tablesOf(subnet)) {
      for (const family of FAMILIES) {
        const won = table.shared[family].filter(({ hop }) =>
          hop.winners.some((route) => routes.includes(route)),
        )
        // What is addressed to a next hop itself arrives there.
        const range = won.find(({ hop }) => hop.cause !== null) ?? won[0]
        if (!range) continue
        const outside = lowestInternetAddress(survey.model, family)
        const wins = table.shared[family].some(
          ({ from, to, hop }) =>
            from <= outside && outside <= to && hop.winners.some((route) => routes.includes(route)),
        )
        return {
          from: fromText(survey.model, subnet, table),
          to: wins ? internetText(survey.model, family) : formatAddress(range.from),
        }
      }
    }
  }
  return undefined
}
