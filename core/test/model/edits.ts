import { MAP_SECTIONS } from '../../src/format/schema/document'
import type { Estate } from '../../src/index'
import type { Random } from '../random/random'

type Section = (typeof MAP_SECTIONS)[number]
type Loose = Record<string, unknown>

/** Keys that stay: with others an estate would not be valid. */
const FIXED = new Set([
  'network',
  'ranges',
  'namedRanges',
  'addresses',
  'kind',
  'style',
  'subnet',
  'subnets',
  'endpoints',
  'interfaces',
  'site',
  'section',
  'must',
])
/** Objects that others need. */
const NEEDED = new Set<Section>([
  'regions',
  'networks',
  'subnets',
  'routeTables',
  'interfaces',
  'ruleSets',
  'services',
  'prefixLists',
  'sites',
  'groups',
])

/** One change, with everything else shared: what people do most, or anything at all. */
export function edited(estate: Estate, r: Random): Estate {
  const section = r.pick(MAP_SECTIONS.filter((one) => estate[one].size > 0))
  const objects = new Map<string, object>(estate[section])
  const id = r.pick([...objects.keys()])
  const old = objects.get(id) as Loose
  const put = (object: object): Estate => ({ ...estate, [section]: objects.set(id, object) })
  if (section === 'routeTables' && r.chance(60))
    return put({ ...old, routes: otherRoutes(estate, old.routes as Loose[], r) })
  if (section === 'ruleSets' && r.chance(60)) {
    const rules = (old.rules ?? []) as Loose[]
    return put({
      ...old,
      rules: r.chance(50) ? rules.slice(1) : rules.map((rule) => ({ ...rule, ports: [443] })),
    })
  }
  if (section === 'subnets' && r.chance(40)) {
    return put({
      ...old,
      routeTable: r.pick(
        [...estate.routeTables].filter(([, table]) => table.network === old.network),
      )[0],
    })
  }
  if (section === 'networks' && r.chance(30))
    return put({ ...old, behaviour: r.pick(['table-routed', 'default-open', 'priority-routed']) })
  if (r.chance(20)) return { ...estate, estateRules: estate.estateRules.slice(1) }
  if (r.chance(10) && !NEEDED.has(section)) {
    objects.delete(id)
    return { ...estate, [section]: objects }
  }
  if (r.chance(40)) return put({ ...old, state: r.pick(['up', 'down', 'deleted']) })
  return put(withKeyOfAnother(old, r.pick([...objects.values()]) as Loose, r))
}

function otherRoutes(estate: Estate, routes: readonly Loose[], r: Random): Loose[] {
  if (r.chance(30)) return routes.slice(1)
  if (r.chance(40))
    return [
      ...routes,
      {
        to: '10.200.0.0/16',
        via: 'drop',
        ...(routes[0]?.priority === undefined ? {} : { priority: 1000 }),
      },
    ]
  const others = [...estate.routeTables.values()].flatMap((table) => table.routes ?? []) as Loose[]
  return routes.map((route, at) =>
    at === 0 && others.length > 0 ? { ...route, via: r.pick(others).via } : route,
  )
}

/** An object with one of its keys as another of its section has it, or without. */
function withKeyOfAnother(old: Loose, other: Loose, r: Random): Loose {
  const keys = [...new Set([...Object.keys(old), ...Object.keys(other)])].filter(
    (key) => !FIXED.has(key),
  )
  if (keys.length === 0) return { ...old, tags: { tier: 'x' } }
  const key = r.pick(keys)
  const { [key]: _, ...rest } = old
  return Object.hasOwn(other, key) ? { ...rest, [key]: other[key] } : rest
}
