import { derived, sameItems } from '../../incremental/derived'
import { formatPrefix, type Prefix } from '../../address/prefix'
import { rangeOf } from '../../address/ranges'
import type { TableModel, Model, NetworkModel, RouteModel, SubnetModel } from '../../model/model'
import { firewallAt } from '../../walk/next-hops/registry'
import { type Finding, finding } from '../finding'
import { type CheckContext, nameOf } from '../survey'
import { usersOf } from '../table-routes'
import { removeRoutes } from '../../mend/recipes/routes'
import { routesOf } from '../../model/present'

/**
 * Routes to a firewall that carry nothing: they cover only the firewall's own subnet, or no subnet
 * looks them up.
 */
export function steersNothing(survey: CheckContext, table: TableModel): Finding[] {
  const { model } = survey
  const network = model.networks[table.network]!
  const users = usersOf(survey, table)
  const asked =
    users.length > 0 ||
    network.behaviour === 'priority-routed' ||
    gatewayTables(model).has(table.index)
  return routesOf(table).flatMap((route) => {
    const home = firewallHome(model, network, route)
    if (!home || route.state !== 'up') return []
    const covers = home.subnet.ranges.filter(
      (range) => typeof range.address === typeof route.prefix.address,
    )
    const onlyHome = within(route.prefix, covers)
    if (asked && !onlyHome) return []
    const prefix = formatPrefix(route.prefix)
    return [
      finding({
        code: 'odd-steers-nothing',
        severity: 'medium',
        anchor: table.ref,
        objects: [table.ref, home.firewall, home.subnet.ref],
        sentence: onlyHome
          ? `${table.id} steers only ${prefix} to ${nameOf(home.firewall)}: that is the firewall’s own subnet, so nothing goes through it.`
          : `${table.id} steers ${prefix} to ${nameOf(home.firewall)}, but no subnet uses this table.`,
        root: { kind: 'route', object: table.ref, part: home.firewall },
        part: prefix,
        ranges: [prefix],
        mend: route.entry < 0 ? null : removeRoutes(model.estate, table.id, [route.entry]),
      }),
    ]
  })
}

/** The tables of gateways themselves. */
const gatewayTables = derived(
  (model: Model): ReadonlySet<number> => new Set(model.gateways.map((gateway) => gateway.table)),
  { same: sameItems },
)

/** The firewall a route leads to, and the subnet it stands in. */
function firewallHome(
  model: Model,
  network: NetworkModel,
  { target }: RouteModel,
): { firewall: string; subnet: SubnetModel } | null {
  const firewall = firewallAt(model, network.index, target)
  const subnet = model.subnets[firewall?.subnet ?? -1]
  return firewall && subnet ? { firewall: firewall.ref, subnet } : null
}

const within = (prefix: Prefix, ranges: readonly Prefix[]): boolean => {
  const inner = rangeOf(prefix)
  return ranges.some((range) => {
    const outer = rangeOf(range)
    return outer.from <= inner.from && inner.to <= outer.to
  })
}
