import { prefixFamily, prefixOf } from '../address/prefix'
import { pointer, type Operation } from '../changes/index'
import type { Firewall, Route, Via } from '../format/estate'
import { freeId } from '../mend/situation'
import type { Model, SubnetModel } from '../model/model'
import { listed, moved, notMoved, type Moved, type NotMoved } from './move'
import { lead, noTables, setRoutes, unknownSubnets } from './tables'

export interface WallMove {
  readonly subnets: readonly string[]
  readonly firewall: string
  readonly traffic: 'internet' | 'networks' | 'both'
}

/**
 * Puts a firewall in front of subnets. Their routes lead to it: the default for the internet, and
 * for traffic between networks the ranges of each other network that they are joined to. Where a
 * gateway lets answers in, its own table leads them back through the firewall; where the firewall
 * stands in another network, routes follow those of neighbours that are led there already.
 */
export function putWall(model: Model, { subnets, firewall, traffic }: WallMove): Moved | NotMoved {
  const missing = unknownSubnets(model, subnets)
  if (missing.length > 0) return notMoved(`there is no subnet ${listed(missing)} in this estate`)
  if (subnets.length === 0) return notMoved('choose the subnets it is to stand in front of')
  const source = model.estate.firewalls.get(firewall)
  if (!source) return notMoved(`there is no firewall "${firewall}" in this estate`)
  const chosen = subnets.map((id) => model.subnets[model.index.subnets.get(id)!]!)
  const under = noTables()
  const operations: Operation[] = []
  const notes: string[] = []
  for (const group of byNetwork(chosen)) {
    const via = viaOf(model, firewall, source, group[0]!)
    if (via === null) {
      notes.push(
        `${listed(group.map(({ id }) => id))}: no next hop in ${model.networks[group[0]!.network]!.id} leads to ${firewall}; join the networks first`,
      )
      continue
    }
    lead(model, under, {
      subnets: group.map(({ id }) => id),
      routes: destinations(model, group[0]!, traffic).map((to): Route => ({ to, via })),
      name: `${model.networks[group[0]!.network]!.id}-by-${firewall}`,
    })
    if (traffic !== 'networks' && typeof via === 'object' && !('peering' in via && via.peering))
      operations.push(...leadAnswersIn(model, under, group, via))
  }
  const change = [...under.operations, ...operations]
  if (change.length === 0) return notMoved(notes.join('; ') || 'they are led there already')
  const of = { internet: 'to the internet', networks: 'between networks', both: 'of every kind' }
  return moved(
    `put ${firewall} in front of ${listed(subnets)} for traffic ${of[traffic]}`,
    change,
    notes,
  )
}

function byNetwork(chosen: readonly SubnetModel[]): SubnetModel[][] {
  const groups = new Map<number, SubnetModel[]>()
  for (const one of chosen) groups.set(one.network, [...(groups.get(one.network) ?? []), one])
  return [...groups.values()]
}

/** The next hop in a subnet's network that leads to a firewall; null where there is none. */
function viaOf(model: Model, id: string, source: Firewall, subnet: SubnetModel): Via | null {
  const within = (one: string | undefined): boolean => {
    const at = model.subnets[model.index.subnets.get(one ?? '') ?? -1]
    return at?.network === subnet.network
  }
  if (source.style === 'inline') {
    const labels = Object.entries(source.endpoints ?? {}).filter(([, one]) => within(one.subnet))
    const near = labels.find(
      ([, one]) => model.estate.subnets.get(one.subnet)?.zone === (subnet.zone ?? undefined),
    )
    const label = (near ?? labels[0])?.[0]
    return label === undefined ? null : { inspect: `${id}/${label}` }
  }
  const sides = Object.values(source.interfaces ?? {})
  const own = sides.find((one) => within(model.estate.interfaces.get(one)?.subnet))
  if (own !== undefined) return { interface: own }
  return neighbourVia(model, sides, subnet)
}

/** The peering or transit to the network of a firewall's interfaces. */
function neighbourVia(model: Model, sides: readonly string[], subnet: SubnetModel): Via | null {
  const networks = new Set(
    sides.map((one) => {
      const at = model.interfaces[model.index.interfaces.get(one) ?? -1]
      return at ? model.subnets[at.subnet]?.network : undefined
    }),
  )
  const peering = model.peerings.find(
    ({ a, b }) =>
      (a.network === subnet.network && networks.has(b.network)) ||
      (b.network === subnet.network && networks.has(a.network)),
  )
  return peering ? { peering: peering.id } : null
}

/** Where traffic of a kind goes from a subnet. */
function destinations(model: Model, subnet: SubnetModel, traffic: WallMove['traffic']): string[] {
  const families = new Set(subnet.ranges.map(prefixFamily))
  const internet = [...(families.has(4) ? ['0.0.0.0/0'] : []), ...(families.has(6) ? ['::/0'] : [])]
  const others = [...model.index.networks.values()]
    .map((index) => model.networks[index]!)
    .filter(({ index }) => index !== subnet.network)
    .flatMap(({ id }) => model.estate.networks.get(id)?.ranges ?? [])
    .filter((text) => families.has(prefixFamily(prefixOf(text))))
  if (traffic === 'internet') return internet
  return traffic === 'networks' ? others : [...internet, ...others]
}

/** The table on a network's internet gateway that leads answers through the firewall. */
function leadAnswersIn(
  model: Model,
  under: ReturnType<typeof noTables>,
  group: readonly SubnetModel[],
  via: Via,
): Operation[] {
  const { estate } = model
  const network = model.networks[group[0]!.network]!
  const door = [...estate.gateways].find(
    ([, one]) => one.kind === 'internet' && one.network === network.id,
  )
  if (!door) return []
  const [id, gateway] = door
  const routes = group.flatMap(({ id: subnet }): Route[] =>
    (estate.subnets.get(subnet)?.ranges ?? []).map((to) => ({ to, via })),
  )
  const known =
    gateway.routeTable === undefined ? undefined : estate.routeTables.get(gateway.routeTable)
  if (gateway.routeTable !== undefined && known) {
    setRoutes(under, gateway.routeTable, known, routes)
    return []
  }
  const table = freeId(estate.routeTables, `${id}-inwards`)
  return [
    { op: 'add', path: pointer('routeTables', table), value: { network: network.id, routes } },
    { op: 'add', path: pointer('gateways', id, 'routeTable'), value: table },
  ]
}
