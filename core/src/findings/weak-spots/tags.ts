import { missingIn } from '../root'
import { lazy } from '../../incremental/cells'
import type { Model } from '../../model/model'
import { wildcard } from '../../rules/applies-to'
import { finding } from '../finding'
import { giveTags } from '../../mend/recipes/upkeep'
import { checkWhole, listText } from '../survey'

/** An object that may have tags, and what says where it is. */
interface Tagged {
  readonly tags?: Readonly<Record<string, string>>
  readonly state?: string
  readonly network?: string
  readonly region?: string
  readonly subnet?: string
}

/** Objects that lack a required tag. */
export const checkTags = checkWhole('upkeep', ({ model }) => {
  const { estate } = model
  return estate.requiredTags.flatMap(({ section, where, keys }) => {
    const objects =
      (estate[section as 'subnets'] as ReadonlyMap<string, Tagged> | undefined) ??
      new Map<string, Tagged>()
    const neighbours = lazy(() => tagsByNetwork(model, objects, keys))
    return [...objects].flatMap(([id, object]) => {
      if (object.state === 'deleted') return []
      const around = surroundings(model, section, object)
      const [key, value] = [
        where?.tag?.slice(0, where.tag.indexOf('=')),
        where?.tag?.slice(where.tag.indexOf('=') + 1),
      ]
      if (key !== undefined && ![object.tags, ...around.tags].some((set) => set?.[key] === value))
        return []
      if (where?.name !== undefined && !wildcard(where.name, id)) return []
      if (where?.region !== undefined && where.region !== (object.region ?? around.region))
        return []
      const missing = keys.filter((needed) => !Object.hasOwn(object.tags ?? {}, needed))
      if (missing.length === 0) return []
      const aroundIt = new Map(
        missing.map((needed) => [
          needed,
          around.tags.find((set) => set && Object.hasOwn(set, needed))?.[needed],
        ]),
      )
      const besideIt = (): ReadonlyMap<string, string | undefined> =>
        new Map(
          missing.map((needed) => [
            needed,
            onlyOne(neighbours().get(`${networkOf(model, object)} ${needed}`)),
          ]),
        )
      return [
        finding({
          code: 'odd-missing-tag',
          severity: 'low',
          anchor: `${section}/${id}`,
          sentence: `${id} lacks the ${missing.length === 1 ? 'tag' : 'tags'} ${listText(missing)}, which ${section} like it must have.`,
          root: missingIn(`${section}/${id}`, `tags ${missing.join(', ')}`),
          part: missing.join(),
          facts: missing,
          mend:
            giveTags(section, id, object.tags, aroundIt, 'as what it stands in has') ??
            giveTags(
              section,
              id,
              object.tags,
              besideIt(),
              `as all ${section} of its network that have one`,
            ),
        }),
      ]
    })
  })
})

const networkOf = ({ estate }: Model, { network, subnet }: Tagged): string | undefined =>
  network ?? estate.subnets.get(subnet ?? '')?.network

const onlyOne = (values: ReadonlySet<string> | undefined): string | undefined =>
  values?.size === 1 ? [...values][0] : undefined

/** The values that some keys have at the objects of each network, by `network key`. */
function tagsByNetwork(
  model: Model,
  objects: ReadonlyMap<string, Tagged>,
  keys: readonly string[],
): ReadonlyMap<string, ReadonlySet<string>> {
  const found = new Map<string, Set<string>>()
  for (const object of objects.values()) {
    const network = networkOf(model, object)
    if (network === undefined || object.state === 'deleted') continue
    for (const key of keys) {
      if (!Object.hasOwn(object.tags ?? {}, key)) continue
      const name = `${network} ${key}`
      found.set(name, (found.get(name) ?? new Set()).add(object.tags![key]!))
    }
  }
  return found
}

/** The tags and the region an object has from the subnet and network it is in. */
function surroundings(
  model: Model,
  section: string,
  object: Tagged,
): { tags: (Record<string, string> | undefined)[]; region: string | null } {
  const subnet = object.subnet === undefined ? undefined : model.estate.subnets.get(object.subnet)
  const network = model.estate.networks.get(object.network ?? subnet?.network ?? '')
  const compiled =
    section === 'subnets' || subnet
      ? model.networks[model.index.networks.get(object.network ?? subnet?.network ?? '') ?? -1]
      : undefined
  return {
    tags: [subnet?.tags, network?.tags],
    region: compiled?.region ?? network?.region ?? null,
  }
}
