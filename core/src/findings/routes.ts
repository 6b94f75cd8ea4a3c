import { formatPrefix, type Prefix } from '../address/prefix'
import { rangeOf, rangesContain, rangeSet, type Range } from '../address/ranges'
import type { Model, NetworkModel, RouteModel, SubnetModel, TableModel } from '../model/model'

import { targetRef } from '../model/targets'
import { derivedAndCompared, sameItems } from '../model/derived'
import { firewallAt } from '../walk/next-hops/registry'
import type { HopRange } from '../hops/sweep'
import { finding, type Finding, type FindingMend } from './finding'
import { leadThrough } from './mends'
import {
  check,
  checkSubnets,
  FAMILIES,
  firewallsOf,
  listText,
  nameOf,
  presentOf,
  rangeTexts,
  type Survey,
} from './survey'

import { deadTargets } from './dead-targets'
import { usersOf, routesOf, removeRoutes } from './table-routes'

/** What is wrong with routes as they are written, table by table. */
export const checkRoutes = check(
  ({ model }) => presentOf(model, 'routeTables'),
  (survey, index) => {
    const table = survey.model.tables[index]!
    if (survey.model.networks[table.network] === undefined) return []
    return [
      ...deadTargets(survey, table),
      ...shadowedRoutes(survey, table),
      ...steersNothing(survey, table),
    ]
  },
)

/** Routes that can never win: others as good or better stand before them everywhere. */
function shadowedRoutes(survey: Survey, table: TableModel): Finding[] {
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
        part: `${route.writtenTo ?? ''} ${prefix} ${route.priority} ${targetRef(route.target) ?? route.target.kind}${route.target.kind === 'address' ? route.target.address : ''} `,
        ranges: [prefix],
        mend: route.entry < 0 ? null : removeRoutes(table, [route]),
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

/** Learned routes that draw what a table's own default was to carry past a firewall, or to the internet. */
export const checkLearned = checkSubnets((survey, subnet) => {
  const { model } = survey
  const out: Finding[] = []
  if (subnet.table < 0) return out
  const table = model.tables[subnet.table]!
  for (const hops of survey.tablesOf(subnet)) {
    for (const family of FAMILIES) {
      const drawn = hops[family].filter(
        ({ hop }) =>
          hop.winners.some((route) => route.origin === 'learned') && hop.shadowed.some(isDefault),
      )
      if (drawn.length === 0) continue
      const byDefault = hops[family].filter(({ hop }) =>
        hop.winners.some((route) => isDefault(route) && route.origin === 'table'),
      )
      const guards = new Set(byDefault.flatMap(({ hop }) => firewallsOf(hop.ways)))
      const bad = drawn.filter(({ from, hop }) =>
        guards.size > 0
          ? !hop.ways.some((way) => way.some((ref) => guards.has(ref)))
          : isPublicRange(model, from),
      )
      if (bad.length === 0) continue
      const sources = [
        ...new Set(
          bad.flatMap(({ hop }) => hop.winners.flatMap((route) => route.learnedFrom ?? [])),
        ),
      ]
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
function keepFromLearned(
  model: Model,
  subnet: SubnetModel,
  bad: readonly HopRange[],
): FindingMend | null {
  const { winners, shadowed } = bad[0]!.hop
  const learned = winners.find((route) => route.origin === 'learned')!
  return leadThrough(model, subnet, rangeSet(bad), learned, shadowed.find(isDefault)!)
}

const isDefault = (route: RouteModel): boolean =>
  route.prefix.length === 0 && route.origin === 'table'
const isPublicRange = (model: Model, from: Range['from']): boolean =>
  rangesContain(model.internetSpace, from)

/** Routes to a firewall that carry nothing: they cover only the firewall's own subnet, or nobody looks them up. */
function steersNothing(survey: Survey, table: TableModel): Finding[] {
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
        part: prefix,
        ranges: [prefix],
        mend: route.entry < 0 ? null : removeRoutes(table, [route]),
      }),
    ]
  })
}

/** The tables of gateways themselves. */
const gatewayTables = (model: Model): ReadonlySet<number> =>
  derivedAndCompared(
    model,
    'tables of gateways',
    () => new Set(model.gateways.map((gateway) => gateway.table)),
    sameItems,
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
