import type { Family } from '../address/address'
import { containsPrefix, prefixFamily, prefixOf } from '../address/prefix'
import { pointer, type Operation } from '../changes/index'
import type { Firewall, Route } from '../format/estate'
import { freeId } from '../mend/situation'
import type { Model, SubnetModel } from '../model/model'
import { approachesTo, subnetsOfWall, type Approach } from '../steering/approach'
import { listed, moved, notMoved, type Moved, type NotMoved } from './move'
import { networksOverlap, rangesOfNetwork } from './networks'
import { lead, noTables, setRoutes, unknownSubnets, type Tables } from '../steering/tables'
import { acceptForwarded, routesOfWall } from '../steering/wall-routes'
import { crossTransits, type Crossing } from './wall-transits'

export interface WallMove {
  readonly subnets: readonly string[]
  readonly firewall: string
  readonly traffic: 'internet' | 'networks' | 'both'
}

/** What is known of a move of a firewall while its change is made. */
interface Putting {
  readonly model: Model
  readonly firewall: string
  readonly source: Firewall
  readonly traffic: WallMove['traffic']
  /** The chosen subnets by network, and how each network gets to the firewall. */
  readonly chosen: ReadonlyMap<string, readonly SubnetModel[]>
  /** How each network that has subnets gets to the firewall; none of those that do not. */
  readonly approaches: ReadonlyMap<string, Approach>
  /** The routes that each subnet is to have, by its id. */
  readonly wanted: Map<string, Route[]>
}

/**
 * Puts a firewall in front of subnets, in both directions. Their routes lead to it: the default for
 * the internet, and for traffic between networks the ranges of each network that gets to the
 * firewall too. Back, the subnets of those networks are led to it for the ranges of the chosen
 * ones; answers from the internet, by the table on the gateway and by the tables of translators
 * beside the firewall. Where the firewall stands in another network, it is reached by its address
 * over a peering, or over a transit, whose tables and attached subnets get the routes that they
 * need. What the firewall lets through stays with its policy. Costs a step for each subnet of a
 * network that is led there.
 */
export function putWall(model: Model, { subnets, firewall, traffic }: WallMove): Moved | NotMoved {
  const missing = unknownSubnets(model, subnets)
  if (missing.length > 0) return notMoved(`there is no subnet ${listed(missing)} in this estate`)
  if (subnets.length === 0) return notMoved('choose the subnets it is to stand in front of')
  const source = model.estate.firewalls.get(firewall)
  if (!source) return notMoved(`there is no firewall "${firewall}" in this estate`)
  const all = byNetwork(model, subnets)
  const approaches = approachesTo(model, firewall)
  const chosen = new Map([...all].filter(([network]) => approaches.has(network)))
  const notes = [...all]
    .filter(([network]) => !approaches.has(network))
    .map(
      ([network, own]) =>
        `${listed(own.map(({ id }) => id))}: no next hop in ${network} leads to ${firewall}; join the networks first`,
    )
  const putting = { model, firewall, source, traffic, chosen, approaches, wanted: new Map() }
  const count = routesMeant(putting)
  if (count > MOST_ROUTES)
    return notMoved(
      `that is ${count} routes, and one move writes ${MOST_ROUTES} at most; choose fewer subnets`,
    )
  leadThere(putting)
  if (traffic !== 'internet') leadOthersBack(putting)
  const under = noTables()
  const operations: Operation[] = []
  leadBeyondWall(putting, under, operations)
  leadAll(putting, under)
  const change = [...under.operations, ...operations]
  if (change.length === 0) return notMoved(notes.join('; ') || 'they are led there already')
  const of = { internet: 'to the internet', networks: 'between networks', both: 'of every kind' }
  return moved(
    `put ${firewall} in front of ${listed(subnets)} for traffic ${of[traffic]}`,
    change,
    notes,
  )
}

function byNetwork(model: Model, subnets: readonly string[]): Map<string, SubnetModel[]> {
  const groups = new Map<string, SubnetModel[]>()
  for (const id of subnets) {
    const one = model.subnets[model.index.subnets.get(id)!]!
    const network = model.networks[one.network]!.id
    groups.set(network, [...(groups.get(network) ?? []), one])
  }
  return groups
}

const writtenRanges = ({ estate }: Model, { id }: SubnetModel): readonly string[] =>
  estate.subnets.get(id)?.ranges ?? []
const familyOfText = (text: string): Family => prefixFamily(prefixOf(text))

/** Asks for routes of a subnet to destinations by the firewall, in the families that it has. */
function want(putting: Putting, subnet: SubnetModel, network: string, to: readonly string[]): void {
  const approach = putting.approaches.get(network)
  const families = new Set(subnet.ranges.map(prefixFamily))
  const known = putting.wanted.get(subnet.id) ?? []
  const routes = to.flatMap((one): Route[] => {
    const family = familyOfText(one)
    const via = families.has(family) ? (approach?.via(family, subnet.zone) ?? null) : null
    return via === null || known.some((route) => route.to === one) ? [] : [{ to: one, via }]
  })
  if (routes.length > 0) putting.wanted.set(subnet.id, [...known, ...routes])
}

/** A move writes no more routes than these. */
const MOST_ROUTES = 5_000

/** How many routes of subnets lead there and back. */
function routesMeant(putting: Putting): number {
  const { model, chosen, traffic } = putting
  if (traffic === 'internet') return [...chosen.values()].flat().length
  let count = 0
  for (const [network, subnets] of chosen)
    for (const other of othersThan(putting, network)) {
      const members = model.networks[model.index.networks.get(other)!]!.subnets.length
      count += subnets.length * (rangesOfNetwork(model, other).length + members)
    }
  return count
}

const INTERNET = ['0.0.0.0/0', '::/0']

/** Other networks that get to the firewall, by what a network is to be led there for. */
const othersThan = ({ approaches, model }: Putting, network: string): string[] =>
  [...approaches.keys()].filter((one) => one !== network && !networksOverlap(model, one, network))

/** The chosen subnets' own routes. */
function leadThere(putting: Putting): void {
  const { model, chosen, traffic } = putting
  for (const [network, subnets] of chosen) {
    const to = [
      ...(traffic === 'networks' ? [] : INTERNET),
      ...(traffic === 'internet'
        ? []
        : othersThan(putting, network).flatMap((one) => rangesOfNetwork(model, one))),
    ]
    for (const subnet of subnets) want(putting, subnet, network, to)
  }
}

/** The routes back of all other networks that get to the firewall, but for its own subnets. */
function leadOthersBack(putting: Putting): void {
  const { model, chosen, source } = putting
  const wall = new Set(subnetsOfWall(model, source))
  for (const [network, subnets] of chosen) {
    const ranges = subnets.flatMap((subnet) => writtenRanges(model, subnet))
    for (const other of othersThan(putting, network)) {
      for (const index of model.networks[model.index.networks.get(other)!]!.subnets) {
        const subnet = model.subnets[index]!
        if (!wall.has(subnet.id)) want(putting, subnet, other, ranges)
      }
    }
  }
}

/** What lies beyond the firewall: gateways, translators, peerings and transits that lead back. */
function leadBeyondWall(putting: Putting, under: Tables, operations: Operation[]): void {
  const { model, chosen, approaches, traffic, source } = putting
  for (const [network, subnets] of chosen) {
    const approach = approaches.get(network)!
    const ranges = subnets.flatMap((subnet) => writtenRanges(model, subnet))
    if (traffic !== 'networks') {
      if (approach.isOwn) operations.push(...leadAnswersIn(putting, under, network, subnets))
      else leadTranslatorsBack(putting, ranges)
    }
    if (!approach.isOwn) operations.push(...routesOfWall(model, putting.firewall, source, ranges))
  }
  const led = traffic === 'internet' ? [...chosen.keys()] : [...approaches.keys()]
  for (const network of led)
    operations.push(...acceptForwarded(model, network, approaches.get(network)!.peering))
  if (traffic !== 'internet') {
    const away = led
      .flatMap((network) => rangesOfNetwork(model, network))
      .filter((range) => !isPartlyChosen(putting, range))
    operations.push(...routesOfWall(model, putting.firewall, source, away, () => true))
  }
  const crossings = [...chosen].flatMap(([network, subnets]): Crossing[] => {
    const { transit } = approaches.get(network)!
    const ranges = subnets.flatMap((subnet) => writtenRanges(model, subnet))
    return transit ? [{ transit, network, ranges }] : []
  })
  const through = crossTransits({
    model,
    firewall: putting.firewall,
    approaches,
    crossings,
    toInternet: traffic !== 'networks',
    toNetworks: traffic !== 'internet',
  })
  operations.push(...through.operations)
  for (const { subnet, routes } of through.routes) {
    const known = putting.wanted.get(subnet) ?? []
    const fresh = routes.filter(({ to }) => !known.some((one) => one.to === to))
    putting.wanted.set(subnet, [...known, ...fresh])
  }
}

/** Whether a range holds one of a chosen subnet, to which the firewall has a route already. */
const isPartlyChosen = ({ chosen, approaches }: Putting, range: string): boolean =>
  [...chosen].some(
    ([network, subnets]) =>
      !approaches.get(network)!.isOwn &&
      subnets.some(({ ranges }) => ranges.some((one) => containsPrefix(prefixOf(range), one))),
  )

/** Puts down the routes that were asked for, those of subnets with the same ones together. */
function leadAll({ model, firewall, wanted }: Putting, under: Tables): void {
  const groups = new Map<string, { subnets: string[]; routes: Route[]; network: string }>()
  for (const [id, routes] of wanted) {
    const network = model.networks[model.subnets[model.index.subnets.get(id)!]!.network]!.id
    const key = `${network} ${JSON.stringify(routes)}`
    const known = groups.get(key)
    if (known) known.subnets.push(id)
    else groups.set(key, { subnets: [id], routes, network })
  }
  for (const { subnets, routes, network } of groups.values())
    lead(model, under, { subnets, routes, name: `${network}-by-${firewall}` })
}

/** The table on a network's internet gateway that leads answers through the firewall. */
function leadAnswersIn(
  { model, approaches }: Putting,
  under: Tables,
  network: string,
  group: readonly SubnetModel[],
): Operation[] {
  const { estate } = model
  const door = [...estate.gateways].find(
    ([, one]) => one.kind === 'internet' && one.network === network,
  )
  if (!door) return []
  const [id, gateway] = door
  const approach = approaches.get(network)!
  const routes = group.flatMap((subnet): Route[] =>
    writtenRanges(model, subnet).flatMap((to) => {
      const via = approach.via(familyOfText(to), subnet.zone)
      return via === null ? [] : [{ to, via }]
    }),
  )
  const known =
    gateway.routeTable === undefined ? undefined : estate.routeTables.get(gateway.routeTable)
  if (gateway.routeTable !== undefined && known) {
    setRoutes(under, gateway.routeTable, known, routes)
    return []
  }
  const table = freeId(estate.routeTables, `${id}-inwards`)
  return [
    { op: 'add', path: pointer('routeTables', table), value: { network, routes } },
    { op: 'add', path: pointer('gateways', id, 'routeTable'), value: table },
  ]
}

/** Answers that come to a translator beside the firewall go back through the firewall. */
function leadTranslatorsBack(putting: Putting, ranges: readonly string[]): void {
  const { model, approaches, source } = putting
  const wall = new Set(subnetsOfWall(model, source))
  for (const { placement } of model.estate.nats.values()) {
    const at = placement && 'subnet' in placement ? placement.subnet : undefined
    const subnet = model.subnets[model.index.subnets.get(at ?? '') ?? -1]
    const network = subnet && model.networks[subnet.network]!.id
    if (!subnet || !network || wall.has(subnet.id) || !approaches.get(network)?.isOwn) continue
    want(putting, subnet, network, ranges)
  }
}
