import { formatPrefix } from '../../address/prefix'
import { type RangeSet, prefixesOfRange } from '../../address/ranges'
import { pointer } from '../../changes/index'
import { mend, type Mend } from '../mend'
import type { Route } from '../../format/estate'
import type { Model, SubnetModel, RouteModel } from '../../model/model'
import { appendRoutes, removeRoutes, replaceVia } from './routes'

/** A mend writes at most this many routes. */
const MOST_ROUTES = 6

/** Makes ranges that bypass a firewall follow the route that they were meant to follow. */
export function leadThrough(
  model: Model,
  subnet: SubnetModel,
  ranges: RangeSet,
  winner: RouteModel,
  covered: RouteModel,
): Mend | null {
  const table = tableOf(model, subnet)
  const via = table?.source.routes?.[covered.entry]?.via
  // A service that a switch leads to is led there on purpose, and no route of the same length comes
  // before it.
  if (winner.target.kind === 'service-switch') return null
  if (
    !table ||
    via === undefined ||
    covered.table !== table.index ||
    model.networks[subnet.network]!.behaviour === 'priority-routed'
  )
    return null
  if (winner.origin === 'table') {
    if (winner.table !== table.index || winner.entry < 0) return null
    const what = `lead ${formatPrefix(winner.prefix)} in ${table.id} where ${formatPrefix(covered.prefix)} leads`
    return mend(what, [replaceVia(table.id, winner.entry, via)])
  }
  const prefixes = ranges.flatMap((range) => prefixesOfRange(range)).map(formatPrefix)
  const taken = new Set((table.source.routes ?? []).map(({ to }) => to))
  if (prefixes.length > MOST_ROUTES || prefixes.some((prefix) => taken.has(prefix))) return null
  return {
    what: `lead ${prefixes.join(', ')} in ${table.id} where ${formatPrefix(covered.prefix)} leads: a route as long as the one that wins comes before it`,
    changes: appendRoutes(
      model.estate,
      table.id,
      prefixes.map((to) => ({ to, via })),
    ),
  }
}

/** The written table a subnet looks up in; null where it has none. */
export const tableOf = (model: Model, subnet: SubnetModel) =>
  subnet.table >= 0 ? model.tables[subnet.table]! : null

/**
 * Takes away the default by which IPv6 leaves; in a default-open network a route that drops stands
 * in for the built-in one.
 */
export function closeIpv6(model: Model, subnet: SubnetModel): Mend | null {
  const table = tableOf(model, subnet)
  if (!table) return null
  const entry = (table.source.routes ?? []).findIndex(({ to }) => to === '::/0')
  const path = pointer('routeTables', table.id, 'routes', entry)
  if (model.networks[subnet.network]!.behaviour === 'default-open') {
    const drop: Route = { to: '::/0', via: 'drop' }
    return {
      what: `drop IPv6 that ${table.id} has no other route for`,
      changes:
        entry >= 0
          ? [{ op: 'replace', path, value: drop }]
          : appendRoutes(model.estate, table.id, [drop]),
    }
  }
  return entry < 0 ? null : removeRoutes(model.estate, table.id, [entry])
}

/** Leads a service's ranges to the routed endpoint that its network has. */
export function useEndpoint(
  model: Model,
  subnet: SubnetModel,
  service: string,
  endpoints: readonly string[],
): Mend | null {
  const table = tableOf(model, subnet)
  const endpoint = endpoints.find((id) => model.estate.endpoints.get(id)?.style === 'routed')
  if (!table || endpoint === undefined) return null
  if (
    (table.source.routes ?? []).some(
      ({ to }) => typeof to === 'object' && 'service' in to && to.service === service,
    )
  )
    return null
  return {
    what: `lead ${service} to ${endpoint} in ${table.id}`,
    changes: appendRoutes(model.estate, table.id, [{ to: { service }, via: { endpoint } }]),
  }
}
