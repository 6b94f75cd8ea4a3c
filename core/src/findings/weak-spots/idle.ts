import { derived, sameItems } from '../../incremental/derived'
import { prefixOf } from '../../address/prefix'
import type { PrefixTable } from '../../address/prefix-table'
import { cached } from '../../incremental/cells'
import type { Model, RouteModel, SubnetModel } from '../../model/model'
import { targetRef } from '../../model/targets'
import { isOwned } from '../../walk/next-hops/registry'
import { servedBy } from './nat-capacity'
import { finding, type Finding, type FindingCode } from '../finding'
import { remove } from '../../mend/recipes/removal'
import { tablesByNetwork, presentOf } from '../../model/present'
import { modelOf, byNetwork, checkWhole, nameOf, type CheckContext } from '../survey'

/** What is there and in use by nothing. */
export const checkIdle = checkWhole('elements', (survey) => {
  const { model } = survey
  const { estate } = model
  const { targets, targetsInUse, tablesInUse, withSubnets, onDefault } = usesOf(survey)
  const cost = (price: number | undefined): string[] =>
    price === undefined
      ? []
      : [`costs ${price}${estate.prices?.currency ? ` ${estate.prices.currency}` : ''} an hour`]
  const out: Finding[] = []
  const add = (
    code: FindingCode,
    ref: string,
    sentence: string,
    facts: readonly string[] = [],
  ): void => {
    const [section = '', id = ''] = [ref.slice(0, ref.indexOf('/')), nameOf(ref)]
    out.push(
      finding({
        code,
        severity: facts.length > 0 ? 'low' : 'note',
        anchor: ref,
        sentence,
        facts,
        mend: remove(model, section, id),
      }),
    )
  }
  // Each asked once for all: an estate may have thousands of what asks.
  const withPublicHosts = networksWithPublicHosts(model)
  const defaults = new Set(
    [...estate.networks.values()].map((network) => network.defaultRouteTable),
  )
  for (const table of model.tables) {
    if (!model.index.routeTables.has(table.id) || tablesInUse.has(table.index)) continue
    if (defaults.has(table.id) && onDefault.has(table.network)) continue
    add('idle-table', table.ref, `No subnet uses ${table.id}: its routes do nothing.`)
  }
  const attached = new Set(
    [...estate.transits.values()].flatMap((transit) =>
      Object.values(transit.attachments ?? {}).flatMap((a) => a.gateway ?? []),
    ),
  )
  for (const gateway of model.gateways) {
    if (
      !model.index.gateways.has(gateway.id) ||
      targets.has(gateway.ref) ||
      attached.has(gateway.id)
    )
      continue
    const unattached = gateway.network < 0
    const letsIn =
      gateway.kind === 'internet' && !unattached && withPublicHosts.has(gateway.network)
    const learnsIn =
      gateway.kind === 'private' && gateway.site !== null && !unattached && gateway.up
    if (!letsIn && !learnsIn)
      add(
        'idle-gateway',
        gateway.ref,
        unattached
          ? `${gateway.id} is attached to no network.`
          : `No route leads to ${gateway.id}, and nothing comes in by it.`,
      )
  }
  const liveNats = presentOf(model, 'nats').map((index) => model.nats[index]!)
  const served = servedBy(survey)
  for (const nat of liveNats) {
    const used = served.has(nat.ref) || (nat.subnet >= 0 && targetsInUse.has(nat.ref))
    if (!used)
      add('idle-nat', nat.ref, `Nothing is sent to ${nat.id}.`, cost(estate.prices?.natHour))
  }
  const natAddresses = new Set(
    liveNats.flatMap((nat) => [...nat.addresses, ...nat.rules.flatMap((rule) => rule.use)]),
  )
  for (const [text, address] of estate.publicAddresses) {
    if (!model.index.publicAddresses.has(text)) continue
    const value = prefixOf(`${text}/${text.includes(':') ? 128 : 32}`).address
    if (address.reserved && !model.publicOwners.has(value) && !natAddresses.has(value))
      add(
        'idle-address',
        `publicAddresses/${text}`,
        `${text} is reserved, and nobody has it.`,
        cost(estate.prices?.publicAddressHour),
      )
  }
  for (const [id] of estate.networks) {
    const index = model.index.networks.get(id)
    if (index !== undefined && !withSubnets.has(index))
      add('idle-network', `networks/${id}`, `${id} has no subnet.`)
  }
  for (const peering of model.peerings) {
    if (!model.index.peerings.has(peering.id)) continue
    const ends = [peering.a.network, peering.b.network]
    const builtIn = ends.some(
      (index) =>
        model.networks[index] !== undefined && model.networks[index]!.behaviour !== 'table-routed',
    )
    const hops = handedOnOver(survey, ends)
    if (!targets.has(peering.ref) && !builtIn && !hops)
      add('idle-peering', peering.ref, `No route leads over ${peering.id}.`)
  }
  for (const [id, endpoint] of estate.endpoints) {
    if (!model.index.endpoints.has(id)) continue
    const ref = `endpoints/${id}`
    const idleAddressed = endpoint.style === 'addressed' && (endpoint.interfaces ?? []).length === 0
    if ((endpoint.style === 'routed' && !targets.has(ref)) || idleAddressed)
      add(
        'idle-endpoint',
        ref,
        endpoint.style === 'routed'
          ? `No route leads to ${id}.`
          : `${id} has no interface, so nothing can reach it.`,
        cost(estate.prices?.endpointHour),
      )
  }
  return out
})

/** What tables, subnets and routes use, of the whole estate. */
interface Uses {
  /** Where routes lead, also learned ones. */
  readonly targets: ReadonlySet<string>
  /** Where the routes of tables that somebody looks up in lead. */
  readonly targetsInUse: ReadonlySet<string>
  readonly tablesInUse: ReadonlySet<number>
  /** Networks that have subnets, and those of which some rely on the default table. */
  readonly withSubnets: ReadonlySet<number>
  readonly onDefault: ReadonlySet<number>
}

const usesOf = derived(
  (survey: CheckContext): Uses => {
    const { model } = survey
    const networks = usesByNetwork(model)
    const learned = new Set(networks.flatMap((one) => one.learned))
    const tablesInUse = new Set([
      ...networks.flatMap((one) => one.tables),
      ...model.gateways.map((gateway) => gateway.table),
    ])
    const tables = presentOf(model, 'routeTables')
    return {
      targets: new Set([
        ...tables.flatMap((index) => targetsOf(model, index)),
        ...[...learned].flatMap((routes) => refsOf(routes)),
      ]),
      targetsInUse: new Set(
        tables.flatMap((index) => (tablesInUse.has(index) ? targetsOf(model, index) : [])),
      ),
      tablesInUse,
      withSubnets: new Set(networks.flatMap((one) => one.with)),
      onDefault: new Set(networks.flatMap((one) => one.onDefault)),
    }
  },
  {
    same: (a, b) =>
      (Object.keys(a) as (keyof Uses)[]).every(
        (key) =>
          a[key].size === b[key].size &&
          [...a[key]].every((one) => (b[key] as ReadonlySet<unknown>).has(one)),
      ),
    on: modelOf,
  },
)

interface UsesOfSubnets {
  readonly tables: readonly number[]
  readonly learned: readonly PrefixTable<RouteModel>[]
  /** Their network, where there are any; and where some rely on its default table. */
  readonly with: readonly number[]
  readonly onDefault: readonly number[]
}

const usesOfSubnets = (subnets: readonly SubnetModel[]): UsesOfSubnets => ({
  tables: [...new Set(subnets.map((subnet) => subnet.table))],
  learned: [...new Set(subnets.map((subnet) => subnet.learned))],
  with: [...new Set(subnets.map((subnet) => subnet.network))],
  onDefault: [
    ...new Set(subnets.filter((subnet) => !subnet.ownTable).map((subnet) => subnet.network)),
  ],
})

const sameUses = (a: UsesOfSubnets, b: UsesOfSubnets): boolean =>
  sameItems(a.tables, b.tables) &&
  sameItems<unknown>(a.learned, b.learned) &&
  sameItems(a.with, b.with) &&
  sameItems(a.onDefault, b.onDefault)

const usesByNetwork = byNetwork(usesOfSubnets, sameUses)

const routesOf = (routes: PrefixTable<RouteModel>): RouteModel[] =>
  [...routes[4].groups, ...routes[6].groups].flatMap((group) => [...group.values])

const refs = new WeakMap<PrefixTable<RouteModel>, readonly string[]>()
const refsOf = (routes: PrefixTable<RouteModel>): readonly string[] =>
  cached(refs, routes, () => [
    ...new Set(routesOf(routes).flatMap((route) => targetRef(route.target) ?? [])),
  ])

const targetsOf = (model: Model, table: number): readonly string[] =>
  refsOf(model.tables[table]!.routes)

const handedOn = new WeakMap<PrefixTable<RouteModel>, readonly RouteModel[]>()

/** Whether some route of two networks hands packets to a next hop on the other side. */
function handedOnOver({ model }: CheckContext, ends: readonly number[]): boolean {
  const byNetwork = tablesByNetwork(model)
  return ends.some((end) =>
    (byNetwork.get(end) ?? []).some(({ routes }) =>
      cached(handedOn, routes, () => routesOf(routes).filter(({ target }) => isOwned(target))).some(
        (route) => crosses(model, route, ends),
      ),
    ),
  )
}

const networksWithPublicHosts = derived(
  (model: Model): ReadonlySet<number> => findPublicHosts(model),
  { same: sameItems },
)

function findPublicHosts(model: Model): ReadonlySet<number> {
  const hosts = model.interfaces
    .filter((one) => one.subnet >= 0 && one.publicAddress !== null)
    .map((one) => model.subnets[one.subnet]!.network)
  const frontends = model.frontends
    .filter((one) => (model.estate.frontends.get(one.id)?.publicAddresses ?? []).length > 0)
    .map((one) => one.network)
  return new Set([...hosts, ...frontends])
}

/** Whether a route's next hop is on the other side of a peering. */
function crosses(model: Model, route: RouteModel, ends: readonly number[]): boolean {
  const table = model.tables[route.table]
  if (!table || !ends.includes(table.network)) return false
  const other = ends.find((index) => index !== table.network)
  if (other === undefined || other < 0) return false
  return route.target.kind === 'address'
    ? model.networks[other]!.owners.has(route.target.address)
    : route.target.kind === 'interface' &&
        model.subnets[model.interfaces[route.target.index]?.subnet ?? -1]?.network === other
}
