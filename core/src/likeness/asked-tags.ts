import type { Estate } from '../format/estate'
import { MAP_SECTIONS } from '../format/schema/document'

/**
 * The tags that routes, rules, groups and expectations ask for, as `key` or `key=value`. All other
 * tags are names for people. Costs a pass over routes and rules.
 */
export function askedTagsOf(estate: Estate): ReadonlySet<string> {
  const asked = new Set<string>()
  for (const { routes } of estate.routeTables.values())
    for (const { onlyTags } of routes ?? []) for (const key of onlyTags ?? []) asked.add(key)
  const put = (condition: unknown): void => {
    if (typeof condition === 'object' && condition !== null && 'tag' in condition)
      asked.add(String(condition.tag))
  }
  const rules = [...estate.ruleSets.values()].flatMap((set) => set.rules ?? [])
  for (const { peers } of [...rules, ...estate.estateRules]) peers?.forEach(put)
  for (const { appliesTo } of estate.estateRules) put(appliesTo)
  for (const { where } of estate.groups.values()) put(where)
  for (const { from, to, except } of estate.expectations.values())
    for (const selection of [from, to, except])
      for (const one of Array.isArray(selection) ? selection : [selection]) put(one)
  return asked
}

/** What an object's tags are of those asked for, as `tag key` or `tag key=value`. */
export function askedOf(
  asked: ReadonlySet<string>,
  tags: Readonly<Record<string, string>> | undefined,
): string[] {
  if (tags === undefined || asked.size === 0) return []
  return Object.entries(tags).flatMap(([key, value]) =>
    [key, `${key}=${value}`].filter((tag) => asked.has(tag)).map((tag) => `tag ${tag}`),
  )
}

/** Tags that are carried in one unit alone, which are names of it: the unit of each. */
export function onlyCarriers(
  estate: Estate,
  asked: ReadonlySet<string>,
  unitOf: ReadonlyMap<string, number>,
): ReadonlyMap<string, number> {
  const units = new Map<string, number | null>()
  if (asked.size === 0) return new Map()
  for (const section of MAP_SECTIONS)
    for (const [id, { tags }] of estate[section])
      for (const tag of askedOf(asked, tags)) {
        const unit = unitOf.get(`${section}/${id}`) ?? null
        units.set(tag, !units.has(tag) || units.get(tag) === unit ? unit : null)
      }
  return new Map([...units].filter((one): one is [string, number] => one[1] !== null))
}
