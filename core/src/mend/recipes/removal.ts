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
  const named = section === 'nats' ? 'the routes to it' : 'its name where it stands'
  const along = keys.length === 0 ? '' : `, and ${named}`
  return {
    what: `remove ${id}${along}`,
    changes: [...keys.map((path): Operation => ({ op: 'remove', path })), out],
  }
}

/** Keys that name an object and do nothing without it; null for a network that is not empty. */
function keysThatName(model: Model, section: string, id: string): readonly string[] | null {
  if (section === 'routeTables') return keysThatNameTables(model).get(id) ?? []
  if (section === 'gateways') return keysThatLearnFrom(model).get(id) ?? []
  if (section === 'nats') return routesToNats(model).get(id) ?? []
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

/** An object by its id, with a key that names it. */
type Naming = readonly [id: string, path: string]

const sameNamings = (a: readonly Naming[], b: readonly Naming[]): boolean =>
  a.length === b.length && a.every(([id, path], at) => id === b[at]![0] && path === b[at]![1])

const byId = (namings: readonly Naming[]): ReadonlyMap<string, readonly string[]> =>
  new Map([...groupBy(namings, ([id]) => id)].map(([id, all]) => [id, all.map(([, path]) => path)]))

/**
 * Tables that subnets and gateways name, though another table, or none, is in force there. Numbers
 * are compared, not tables, so that a changed route leaves the value valid.
 */
const namedInVain = derived(
  ({ estate, index, subnets }: Model): readonly Naming[] => {
    const isInForce = (subnet: string, table: string): boolean =>
      subnets[index.subnets.get(subnet) ?? -1]?.table === index.routeTables.get(table)
    const ofSubnets = [...estate.subnets].flatMap(([id, { routeTable }]): Naming[] =>
      routeTable !== undefined && !isInForce(id, routeTable)
        ? [[routeTable, pointer('subnets', id, 'routeTable')]]
        : [],
    )
    const ofGateways = [...estate.gateways].flatMap(([id, { routeTable }]): Naming[] =>
      routeTable !== undefined && !index.gateways.has(id)
        ? [[routeTable, pointer('gateways', id, 'routeTable')]]
        : [],
    )
    return [...ofSubnets, ...ofGateways]
  },
  { same: sameNamings },
)

/** Tables that networks name as their default. */
const namedAsDefault = derived(
  ({ estate }: Model): readonly Naming[] =>
    [...estate.networks].flatMap(([id, { defaultRouteTable }]): Naming[] =>
      defaultRouteTable === undefined
        ? []
        : [[defaultRouteTable, pointer('networks', id, 'defaultRouteTable')]],
    ),
  { same: sameNamings },
)

const keysThatNameTables = derived((model: Model) =>
  byId([...namedAsDefault(model), ...namedInVain(model)]),
)

/** Gateways and transits that tables learn from by name. */
const learnedByName = derived(
  ({ estate }: Model): readonly Naming[] =>
    [...estate.routeTables].flatMap(([table, { learn }]): Naming[] =>
      Array.isArray(learn)
        ? [...new Set<string>(learn)].map((id) => [
            id,
            pointer('routeTables', table, 'learn', learn.indexOf(id)),
          ])
        : [],
    ),
  { same: sameNamings },
)

const keysThatLearnFrom = derived((model: Model) => byId(learnedByName(model)))

/** Routes by the NAT they lead to, of each table the last one first, so that their places hold. */
const leadingToNats = derived(
  ({ estate }: Model): readonly Naming[] =>
    [...estate.routeTables].flatMap(([table, { routes = [] }]) =>
      routes
        .flatMap(({ via }, at): Naming[] =>
          typeof via === 'object' && via.nat !== undefined
            ? [[via.nat, pointer('routeTables', table, 'routes', at)]]
            : [],
        )
        .reverse(),
    ),
  { same: sameNamings },
)

const routesToNats = derived((model: Model) => byId(leadingToNats(model)))

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
