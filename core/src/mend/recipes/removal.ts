import { type Operation, pointer } from '../../changes/index'
import type { Mend } from '../mend'
import { derived } from '../../incremental/derived'
import type { Model } from '../../model/model'
import { groupBy } from '../../model/sections'
import { tablesIn } from './associations'

/**
 * Takes an object out that nothing uses, with every key that would otherwise name what is gone;
 * null where something that stays is about it: a network that still holds objects, a group, an
 * expectation, a rule.
 */
export function remove(model: Model, section: string, id: string): Mend | null {
  const out: Operation = { op: 'remove', path: pointer(section, id) }
  if (isNamedByPeople(model, section, id)) return null
  const keys = keysThatName(model, section, id)
  if (keys === null) return null
  const along = keys.length === 0 ? '' : ', and its name where it stands'
  return {
    what: `remove ${id}${along}`,
    changes: [...keys.map((path): Operation => ({ op: 'remove', path })), out],
  }
}

/** Keys that name an object and do nothing without it; null for a network that is not empty. */
function keysThatName(model: Model, section: string, id: string): string[] | null {
  const { estate } = model
  if (section === 'routeTables') {
    const defaults = [...estate.networks].filter(([, network]) => network.defaultRouteTable === id)
    return [
      ...defaults.map(([network]) => pointer('networks', network, 'defaultRouteTable')),
      ...(namedInVain(model).get(id) ?? []),
    ]
  }
  if (section === 'gateways') {
    const learning = (sources: unknown): number =>
      Array.isArray(sources) ? sources.indexOf(id) : -1
    return [...estate.routeTables].flatMap(([table, { learn }]) =>
      learning(learn) < 0 ? [] : [pointer('routeTables', table, 'learn', learning(learn))],
    )
  }
  return section === 'networks' ? keysThatNameNetwork(model, id) : []
}
function keysThatNameNetwork(model: Model, id: string): string[] | null {
  const { estate, attached, transits } = model
  const index = model.index.networks.get(id)!
  const stands =
    [attached.gateways, attached.nats, attached.peerings].some(
      (by) => (by.get(index)?.length ?? 0) > 0,
    ) || tablesIn(model, index).length > 0
  const used = [
    ...estate.endpoints.values(),
    ...estate.subnets.values(),
    ...estate.firewalls.values(),
  ].some((one) => one.network === id)
  if (stands || used || transits.some(({ attachmentOf }) => attachmentOf.has(index))) return null
  return [...estate.nameZones].flatMap(([zone, { linkedTo }]) => {
    const at = linkedTo?.indexOf(id) ?? -1
    return at < 0 ? [] : [pointer('nameZones', zone, 'linkedTo', at)]
  })
}

/** A table with a key of a subnet or gateway that names it. */
type NamedTable = readonly [table: string, path: string]

/** Tables that subnets and gateways name, though another table, or none, is in force there. */
const tablesNamedInVain = derived(
  ({ estate, index, tables, subnets }: Model): readonly NamedTable[] => {
    const inForce = (id: string): string | undefined =>
      tables[subnets[index.subnets.get(id) ?? -1]?.table ?? -1]?.id
    const ofSubnets = [...estate.subnets].flatMap(([id, { routeTable }]): NamedTable[] =>
      routeTable !== undefined && inForce(id) !== routeTable
        ? [[routeTable, pointer('subnets', id, 'routeTable')]]
        : [],
    )
    const ofGateways = [...estate.gateways].flatMap(([id, { routeTable }]): NamedTable[] =>
      routeTable !== undefined && !index.gateways.has(id)
        ? [[routeTable, pointer('gateways', id, 'routeTable')]]
        : [],
    )
    return [...ofSubnets, ...ofGateways]
  },
  { same: (a, b) => a.length === b.length && a.every((one, at) => one.join() === b[at]!.join()) },
)

/** The same, as the keys by table. */
const namedInVain = (model: Model): ReadonlyMap<string, readonly string[]> =>
  new Map(
    [...groupBy(tablesNamedInVain(model), ([table]) => table)].map(([table, all]) => [
      table,
      all.map(([, path]) => path),
    ]),
  )

/** Whether a group, an expectation or a rule of the estate names an object. */
function isNamedByPeople({ estate }: Model, section: string, id: string): boolean {
  const ref = `${section}/${id}`
  const inGroup = [...estate.groups.values()].some(
    (group) =>
      group.section === section && [...(group.members ?? []), ...(group.except ?? [])].includes(id),
  )
  return (
    inGroup ||
    [...estate.expectations.values(), ...estate.estateRules].some((one) =>
      mentions(one, ref, section, id),
    )
  )
}

/** The keys by which a selection names objects of a section. */
const SELECTED: Readonly<Record<string, string>> = {
  network: 'networks',
  site: 'sites',
  party: 'parties',
  service: 'services',
  ruleSet: 'ruleSets',
}
function mentions(value: unknown, ref: string, section: string, id: string): boolean {
  if (typeof value !== 'object' || value === null) return value === ref
  return Object.entries(value).some(
    ([key, inner]) =>
      (inner === id && SELECTED[key] === section) || mentions(inner, ref, section, id),
  )
}
