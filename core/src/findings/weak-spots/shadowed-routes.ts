import { ledTo } from '../deciding'
import { formatPrefix } from '../../address/prefix'
import type { TableModel, RouteModel } from '../../model/model'
import { targetRef } from '../../model/targets'
import { type Finding, finding } from '../finding'
import { type CheckContext, FAMILIES } from '../survey'
import { usersOf } from '../table-routes'
import { removeRoutes } from '../../mend/recipes/routes'
import { routesOf } from '../../model/present'

/** Routes that can never win: others as good or better stand before them everywhere. */
export function shadowedRoutes(survey: CheckContext, table: TableModel): Finding[] {
  const { model } = survey
  const users = usersOf(survey, table)
  if (users.length === 0 && model.networks[table.network]!.behaviour !== 'priority-routed')
    return []
  const subnets =
    users.length > 0
      ? users
      : model.networks[table.network]!.subnets.map((index) => model.subnets[index]!)
  const wins = new Set<RouteModel>()
  const seen = new Set<unknown>()
  const covers = new Map<RouteModel, RouteModel>()
  for (const subnet of subnets.slice(0, 40)) {
    for (const hops of survey.tablesOf(subnet)) {
      for (const family of FAMILIES) {
        // Subnets that share their routing share its ranges.
        if (seen.has(hops[family])) continue
        seen.add(hops[family])
        for (const { hop } of hops[family]) {
          for (const route of hop.winners) wins.add(route)
          for (const route of hop.shadowed) if (hop.winners[0]) covers.set(route, hop.winners[0])
        }
      }
    }
  }
  // Of a family no host has, nothing is known.
  const families = new Set(
    subnets.flatMap((subnet) =>
      survey
        .tablesOf(subnet)
        .flatMap((hops) => FAMILIES.filter((family) => hops[family].length > 0)),
    ),
  )
  return routesOf(table).flatMap((route) => {
    if (
      route.state !== 'up' ||
      wins.has(route) ||
      !families.has(typeof route.prefix.address === 'number' ? 4 : 6) ||
      route.onlyTags !== null
    )
      return []
    const by = covers.get(route)
    if (!by) return []
    const prefix = formatPrefix(route.prefix)
    return [
      finding({
        code: 'odd-shadowed-route',
        severity: 'low',
        anchor: table.ref,
        objects: [table.ref, ...subnets.slice(0, 20).map((subnet) => subnet.ref)],
        sentence: `The route of ${table.id} to ${prefix} never wins: ${originText(by)} to ${formatPrefix(by.prefix)} stands before it everywhere.`,
        root: { kind: 'route', object: table.ref, part: ledTo(route.target) },
        part: `${route.writtenTo ?? ''} ${prefix} ${route.priority} ${targetRef(route.target) ?? route.target.kind}${route.target.kind === 'address' ? route.target.address : ''} `,
        ranges: [prefix],
        mend: route.entry < 0 ? null : removeRoutes(model.estate, table.id, [route.entry]),
      }),
    ]
  })
}

const originText = (route: RouteModel): string =>
  route.origin === 'table'
    ? 'its own route'
    : route.origin === 'built-in'
      ? 'the built-in route'
      : 'the learned route'
