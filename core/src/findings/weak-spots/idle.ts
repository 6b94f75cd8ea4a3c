import { derived, sameItems } from '../../incremental/derived'
import { prefixOf } from '../../address/prefix'
import type { PrefixTable } from '../../address/prefix-table'
import { cached } from '../../incremental/cells'
import type { Model, RouteModel, SubnetModel } from '../../model/model'
import { targetRef } from '../../model/targets'
import { isOwned } from '../../walk/next-hops/registry'
import { servedBy } from './nat-capacity'
import { finding, type FindingCode } from '../finding'
import { remove } from '../../mend/recipes/removal'
import { tablesByNetwork, presentOf } from '../../model/present'
import { modelOf, byNetwork, checkWhole, nameOf, type CheckContext } from '../survey'

/** What is there and in use by nothing. */
export const checkIdle = checkWhole('elements', (survey) =>
  IDLE.flatMap((find) => [...find(survey, usesOf(survey))]).map(
    ({ code, ref, sentence, facts = [] }) =>
      finding({
        code,
        severity: facts.length > 0 ? 'low' : 'note',
        anchor: ref,
        sentence,
        root: { kind: 'unused', object: ref, part: '' },
        facts,
        mend: remove(survey.model, ref.slice(0, ref.indexOf('/')), nameOf(ref)),
      }),
  ),
)

/** An object that nothing uses; with facts where it costs something. */
interface Idle {
  readonly code: FindingCode
  readonly ref: string
  readonly sentence: string
  readonly facts?: readonly string[]
}

type FindIdle = (survey: CheckContext, uses: Uses) => Iterable<Idle>

/** What an object of a section costs, in the estate's own prices. */
function cost(
  { prices }: Model['estate'],
  key: 'natHour' | 'publicAddressHour' | 'endpointHour',
): string[] {
  const price = prices?.[key]
  if (price === undefined) return []
  return [`costs ${price}${prices?.currency ? ` ${prices.currency}` : ''} an hour`]
}

const idleTables: FindIdle = function* ({ model }, { tablesInUse, onDefault }) {
  const defaults = new Set(
    [...model.estate.networks.values()].map((network) => network.defaultRouteTable),
  )
  for (const { id, ref, index, network } of model.tables) {
    if (!model.index.routeTables.has(id) || tablesInUse.has(index)) continue
    if (defaults.has(id) && onDefault.has(network)) continue
    yield { code: 'idle-table', ref, sentence: `No subnet uses ${id}: its routes do nothing.` }
  }
}

const idleGateways: FindIdle = function* ({ model }, { targets }) {
  const withPublicHosts = networksWithPublicHosts(model)
  const attached = new Set(
    [...model.estate.transits.values()].flatMap((transit) =>
      Object.values(transit.attachments ?? {}).flatMap((one) => one.gateway ?? []),
    ),
  )
  for (const { id, ref, kind, network, site, up } of model.gateways) {
    if (!model.index.gateways.has(id) || targets.has(ref) || attached.has(id)) continue
    const unattached = network < 0
    const letsIn = kind === 'internet' && !unattached && withPublicHosts.has(network)
    const learnsIn = kind === 'private' && site !== null && !unattached && up
    if (letsIn || learnsIn) continue
    const sentence = unattached
      ? `${id} is attached to no network.`
      : `No route leads to ${id}, and nothing comes in by it.`
    yield { code: 'idle-gateway', ref, sentence }
  }
}

const idleNats: FindIdle = function* (survey, { targetsInUse }) {
  const { model } = survey
  const served = servedBy(survey)
  for (const index of presentOf(model, 'nats')) {
    const { id, ref, subnet } = model.nats[index]!
    if (served.has(ref) || (subnet >= 0 && targetsInUse.has(ref))) continue
    const facts = cost(model.estate, 'natHour')
    yield { code: 'idle-nat', ref, sentence: `Nothing is sent to ${id}.`, facts }
  }
}

const idleAddresses: FindIdle = function* ({ model }) {
  const ofNats = new Set(
    presentOf(model, 'nats').flatMap((index) => {
      const { addresses, rules } = model.nats[index]!
      return [...addresses, ...rules.flatMap((rule) => rule.use)]
    }),
  )
  for (const [text, address] of model.estate.publicAddresses) {
    if (!model.index.publicAddresses.has(text)) continue
    const value = prefixOf(`${text}/${text.includes(':') ? 128 : 32}`).address
    if (!address.reserved || model.publicOwners.has(value) || ofNats.has(value)) continue
    yield {
      code: 'idle-address',
      ref: `publicAddresses/${text}`,
      sentence: `${text} is reserved, and nobody has it.`,
      facts: cost(model.estate, 'publicAddressHour'),
    }
  }
}

const idleNetworks: FindIdle = function* ({ model }, { withSubnets }) {
  for (const [id] of model.estate.networks) {
    const index = model.index.networks.get(id)
    if (index === undefined || withSubnets.has(index)) continue
    yield { code: 'idle-network', ref: `networks/${id}`, sentence: `${id} has no subnet.` }
  }
}

const idlePeerings: FindIdle = function* (survey, { targets }) {
  const { model } = survey
  for (const { id, ref, a, b } of model.peerings) {
    if (!model.index.peerings.has(id) || targets.has(ref)) continue
    const ends = [a.network, b.network]
    const isBuiltIn = ends.some((index) => {
      const network = model.networks[index]
      return network !== undefined && network.behaviour !== 'table-routed'
    })
    if (isBuiltIn || handedOnOver(survey, ends)) continue
    yield { code: 'idle-peering', ref, sentence: `No route leads over ${id}.` }
  }
}

const idleEndpoints: FindIdle = function* ({ model }, { targets }) {
  for (const [id, endpoint] of model.estate.endpoints) {
    if (!model.index.endpoints.has(id)) continue
    const ref = `endpoints/${id}`
    const isRouted = endpoint.style === 'routed'
    const isIdle =
      endpoint.style === 'routed'
        ? !targets.has(ref)
        : endpoint.style === 'addressed' && (endpoint.interfaces ?? []).length === 0
    if (!isIdle) continue
    const sentence = isRouted
      ? `No route leads to ${id}.`
      : `${id} has no interface, so nothing can reach it.`
    yield { code: 'idle-endpoint', ref, sentence, facts: cost(model.estate, 'endpointHour') }
  }
}

const IDLE: readonly FindIdle[] = [
  idleTables,
  idleGateways,
  idleNats,
  idleAddresses,
  idleNetworks,
  idlePeerings,
  idleEndpoints,
]

/** What tables, subnets and routes use, of the whole estate. */
interface Uses {
  /** Where routes lead, also learned ones. */
  readonly targets: ReadonlySet<string>
  /** The targets of routes in tables that are looked up. */
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
