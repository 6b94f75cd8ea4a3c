import { formatAddress } from '../address/address'
import { formatPrefix, type Prefix } from '../address/prefix'
import { rangeOf, rangesContain, rangeSet, type Range } from '../address/ranges'
import { pointer } from '../mend/change'
import { targetRef, type Model, type NetworkModel, type RouteModel, type SubnetModel, type TableModel } from '../model/model'
import { derivedAndCompared, sameItems } from '../model/derived'
import type { Question } from '../trace/question'
import { nextHopOwner } from '../walk/next-hop'
import { lowestInternetAddress } from '../walk/public-address'
import type { HopRange } from '../hops/sweep'
import { finding, type Finding, type FindingMend } from './finding'
import { leadThrough } from './mends'
import { check, checkSubnets, FAMILIES, firewallsOf, fromText, internetText, listText, nameOf, presentOf, rangeTexts, type Survey } from './survey'

/** What is wrong with routes as they are written, table by table. */
export const checkRoutes = check(
  ({ model }) => presentOf(model, 'routeTables'),
  (survey, index) => {
    const table = survey.model.tables[index]!
    if (survey.model.networks[table.network] === undefined) return []
    return [...deadTargets(survey, table), ...shadowedRoutes(survey, table), ...steersNothing(survey, table)]
  },
)

const routesOf = (table: TableModel): RouteModel[] => [4, 6].flatMap((family) => table.routes[family as 4 | 6].groups.flatMap((group) => [...group.values]))

/** The subnets that look up in a table. */
function usersOf({ model }: Survey, { index }: TableModel): readonly SubnetModel[] {
  const numbers = derivedAndCompared(
    model,
    `users of table ${index}`,
    () => (model.networks[model.tables[index]!.network]?.subnets ?? []).filter((one) => model.subnets[one]!.table === index),
    sameItems,
  )
  return numbers.map((one) => model.subnets[one]!)
}

/** Why packets by this route are lost at its target, whatever they are. */
function fault(
  model: Model,
  network: NetworkModel,
  route: RouteModel,
): { readonly next: boolean; readonly object: string | null; readonly why: string } | null {
  const { target } = route
  const dead = (why: string): ReturnType<typeof fault> => ({ next: false, object: targetRef(target), why })
  switch (target.kind) {
    case 'address':
    case 'interface': {
      const { fault: found, interface: owner } = nextHopOwner(model, network.index, target)
      // A host takes what is addressed to it whether it forwards or not.
      if (found?.code === 'next-hop-not-forwarding' && isAddressOf(model, owner, route.prefix)) return null
      return found && { next: true, object: found.object, why: found.why }
    }
    case 'gateway':
    case 'nat': {
      const object = (target.kind === 'gateway' ? model.gateways : model.nats)[target.index]
      if (!object) return dead('is not there')
      if (object.network !== network.index) return dead(object.network < 0 ? 'is attached to no network' : `belongs to ${model.networks[object.network]!.id}`)
      return object.up ? null : dead('is not up')
    }
    case 'peering': {
      const peering = model.peerings[target.index]
      if (!peering) return dead('is not there')
      if (peering.a.network !== network.index && peering.b.network !== network.index) return dead('connects other networks')
      return peering.up ? null : dead('is not up')
    }
    case 'transit': {
      const transit = model.transits[target.index]
      if (!transit) return dead('is not there')
      const name = transit.attachmentOf.get(network.index)
      if (name === undefined) return dead('is not attached to this network')
      return transit.up && (transit.source.attachments?.[name]?.state ?? 'up') === 'up' ? null : dead('is not up')
    }
    case 'endpoint': {
      const endpoint = model.estate.endpoints.get(target.id)
      if (!endpoint || endpoint.state === 'deleted') return dead('is not there')
      if (endpoint.network !== network.id) return dead(`belongs to ${endpoint.network ?? 'no network'}`)
      return (endpoint.state ?? 'up') === 'up' ? null : dead('is not up')
    }
    case 'inspect': {
      const firewall = model.firewalls[target.index]
      const endpoint = firewall?.source.style === 'inline' ? firewall.source.endpoints?.[target.endpoint] : undefined
      const subnet = model.subnets[model.index.subnets.get(endpoint?.subnet ?? '') ?? -1]
      if (!firewall || !endpoint || endpoint.state === 'deleted' || !subnet) return dead('is not there')
      if (subnet.network !== network.index) return dead('is in another network')
      return firewall.up && subnet.up && (endpoint.state ?? 'up') === 'up' ? null : dead('is not up')
    }
    default:
      return null
  }
}

/** Whether a prefix is just one address of an interface. */
const isAddressOf = (model: Model, index: number, prefix: Prefix): boolean =>
  prefix.length === (typeof prefix.address === 'number' ? 32 : 128) && (model.interfaces[index]?.addresses ?? []).includes(prefix.address)

function deadTargets(survey: Survey, table: TableModel): Finding[] {
  const { model } = survey
  const network = model.networks[table.network]!
  const byTarget = new Map<string, { routes: RouteModel[]; fault: NonNullable<ReturnType<typeof fault>> }>()
  for (const route of routesOf(table)) {
    if (route.state !== 'up' || route.entry < 0) continue
    const found = fault(model, network, route)
    if (!found) continue
    const key = `${found.next} ${'address' in route.target ? route.target.address : 'id' in route.target ? `${route.target.kind} ${route.target.id}` : ''}`
    const known = byTarget.get(key)
    if (known) known.routes.push(route)
    else byTarget.set(key, { routes: [route], fault: found })
  }
  const subnets = usersOf(survey, table)
  const users = subnets.map((subnet) => subnet.ref)
  return [...byTarget].map(([key, { routes, fault: found }]) => {
    const prefixes = [...new Set(routes.map((route) => route.writtenTo ?? formatPrefix(route.prefix)))]
    const target = nameOf(targetRef(routes[0]!.target) ?? key)
    return finding({
      code: found.next ? 'hole-next-hop' : 'hole-dead-target',
      severity: users.length > 0 ? 'high' : 'low',
      anchor: table.ref,
      objects: [table.ref, found.object, ...users],
      sentence: found.next
        ? `${table.id} sends ${listText(prefixes)} to a next hop that loses it: ${found.why}.`
        : `${table.id} sends ${listText(prefixes)} to ${target}, which ${found.why}.`,
      part: key,
      ranges: routes.map((route) => formatPrefix(route.prefix)),
      question: questionBy(survey, subnets, routes),
      mend: removeRoutes(table, routes),
    })
  })
}

/** A question whose packet some routes win: asked from the first subnet that looks them up. */
function questionBy(survey: Survey, users: readonly SubnetModel[], routes: readonly RouteModel[]): Question | undefined {
  for (const subnet of users) {
    for (const table of survey.tablesOf(subnet)) {
      for (const family of FAMILIES) {
        const won = table.shared[family].filter(({ hop }) => hop.winners.some((route) => routes.includes(route)))
        // What is addressed to a next hop itself arrives there.
        const range = won.find(({ hop }) => hop.cause !== null) ?? won[0]
        if (!range) continue
        const outside = lowestInternetAddress(survey.model, family)
        const wins = table.shared[family].some(({ from, to, hop }) => from <= outside && outside <= to && hop.winners.some((route) => routes.includes(route)))
        return { from: fromText(survey.model, subnet, table), to: wins ? internetText(survey.model, family) : formatAddress(range.from) }
      }
    }
  }
  return undefined
}

function removeRoutes(table: TableModel, routes: readonly RouteModel[]): FindingMend {
  const entries = [...new Set(routes.map((route) => route.entry))].sort((a, b) => b - a)
  return {
    what: `take ${entries.length === 1 ? 'the route' : `these ${entries.length} routes`} out of ${table.id}`,
    changes: entries.map((entry) => ({ op: 'remove', path: pointer('routeTables', table.id, 'routes', entry) })),
  }
}

/** Routes that can never win: others as good or better stand before them everywhere. */
function shadowedRoutes(survey: Survey, table: TableModel): Finding[] {
  const { model } = survey
  const users = usersOf(survey, table)
  if (users.length === 0 && model.networks[table.network]!.behaviour !== 'priority-routed') return []
  const subnets = users.length > 0 ? users : model.networks[table.network]!.subnets.map((index) => model.subnets[index]!)
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
  const families = new Set(subnets.flatMap((subnet) => survey.tablesOf(subnet).flatMap((hops) => FAMILIES.filter((family) => hops[family].length > 0))))
  return routesOf(table).flatMap((route) => {
    if (route.state !== 'up' || wins.has(route) || !families.has(typeof route.prefix.address === 'number' ? 4 : 6) || route.onlyTags !== null) return []
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
        part: `${route.writtenTo ?? ''} ${prefix} ${route.priority} ${targetRef(route.target) ?? route.target.kind}${route.target.kind === 'address' ? route.target.address : ''} `,
        ranges: [prefix],
        mend: route.entry < 0 ? null : removeRoutes(table, [route]),
      }),
    ]
  })
}

const originText = (route: RouteModel): string =>
  route.origin === 'table' ? 'its own route' : route.origin === 'built-in' ? 'the built-in route' : 'the learned route'

/** Learned routes that draw what a table's own default was to carry past a firewall, or to the internet. */
export const checkLearned = checkSubnets((survey, subnet) => {
  const { model } = survey
  const out: Finding[] = []
  if (subnet.table < 0) return out
  const table = model.tables[subnet.table]!
  for (const hops of survey.tablesOf(subnet)) {
    for (const family of FAMILIES) {
      const drawn = hops[family].filter(({ hop }) => hop.winners.some((route) => route.origin === 'learned') && hop.shadowed.some(isDefault))
      if (drawn.length === 0) continue
      const byDefault = hops[family].filter(({ hop }) => hop.winners.some((route) => isDefault(route) && route.origin === 'table'))
      const guards = new Set(byDefault.flatMap(({ hop }) => firewallsOf(hop.ways)))
      const bad = drawn.filter(({ from, hop }) => (guards.size > 0 ? !hop.ways.some((way) => way.some((ref) => guards.has(ref))) : isPublicRange(model, from)))
      if (bad.length === 0) continue
      const sources = [...new Set(bad.flatMap(({ hop }) => hop.winners.flatMap((route) => route.learnedFrom ?? [])))]
      out.push(
        finding({
          code: 'leak-learned-route',
          severity: guards.size > 0 ? 'high' : 'medium',
          anchor: table.ref,
          objects: [table.ref, ...sources, subnet.ref, ...guards],
          sentence: `Routes that ${table.id} learns from ${listText(sources.map(nameOf))} draw ${listText(rangeTexts(bad, 3))} away from its own default${guards.size > 0 ? ` through ${listText([...guards].map(nameOf))}` : ''}.`,
          part: sources.join(),
          ranges: rangeTexts(bad, 20),
          mend: keepFromLearned(model, subnet, bad),
        }),
      )
    }
  }
  return out
})

/** Leads what a learned route draws away where the table's own default leads. */
function keepFromLearned(model: Model, subnet: SubnetModel, bad: readonly HopRange[]): FindingMend | null {
  const { winners, shadowed } = bad[0]!.hop
  const learned = winners.find((route) => route.origin === 'learned')!
  return leadThrough(model, subnet, rangeSet(bad), learned, shadowed.find(isDefault)!)
}

const isDefault = (route: RouteModel): boolean => route.prefix.length === 0 && route.origin === 'table'
const isPublicRange = (model: Model, from: Range['from']): boolean => rangesContain(model.internetSpace, from)

/** Routes to a firewall that carry nothing: they cover only the firewall's own subnet, or nobody looks them up. */
function steersNothing(survey: Survey, table: TableModel): Finding[] {
  const { model } = survey
  const network = model.networks[table.network]!
  const users = usersOf(survey, table)
  const asked = users.length > 0 || network.behaviour === 'priority-routed' || gatewayTables(model).has(table.index)
  return routesOf(table).flatMap((route) => {
    const home = firewallHome(model, network, route)
    if (!home || route.state !== 'up') return []
    const covers = home.subnet.ranges.filter((range) => typeof range.address === typeof route.prefix.address)
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
        part: prefix,
        ranges: [prefix],
        mend: route.entry < 0 ? null : removeRoutes(table, [route]),
      }),
    ]
  })
}

/** The tables of gateways themselves. */
const gatewayTables = (model: Model): ReadonlySet<number> =>
  derivedAndCompared(model, 'tables of gateways', () => new Set(model.gateways.map((gateway) => gateway.table)), sameItems)

/** The firewall a route leads to, and the subnet it stands in. */
function firewallHome(model: Model, network: NetworkModel, { target }: RouteModel): { firewall: string; subnet: SubnetModel } | null {
  if (target.kind === 'inspect') {
    const firewall = model.firewalls[target.index]
    const id = firewall?.source.style === 'inline' ? firewall.source.endpoints?.[target.endpoint]?.subnet : undefined
    const subnet = model.subnets[model.index.subnets.get(id ?? '') ?? -1]
    return firewall && subnet ? { firewall: firewall.ref, subnet } : null
  }
  if (target.kind !== 'address' && target.kind !== 'interface') return null
  const owner = nextHopOwner(model, network.index, target)
  const side = model.firewallAt.get(owner.interface)
  const subnet = model.subnets[owner.subnet]
  return side && subnet ? { firewall: model.firewalls[side.firewall]!.ref, subnet } : null
}

const within = (prefix: Prefix, ranges: readonly Prefix[]): boolean => {
  const inner = rangeOf(prefix)
  return ranges.some((range) => {
    const outer = rangeOf(range)
    return outer.from <= inner.from && inner.to <= outer.to
  })
}
