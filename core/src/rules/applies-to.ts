import type { EstateRule } from '../format'
import { splitRef } from '../format/ref'
import type { Model } from '../model/model'
import type { Place } from './place'

/** A tag condition matches an object's own tags and those of its subnet and network. */
export function hasTag(model: Model, place: Place, condition: string): boolean {
  const at = condition.indexOf('=')
  const [key, value] = [condition.slice(0, at), condition.slice(at + 1)]
  return tagsOf(model, place).some((tags) => tags?.[key] === value)
}

/** Whether a host, its subnet or its network has a tag of some key. */
export const hasTagKey = (model: Model, place: Place, key: string): boolean =>
  tagsOf(model, place).some((tags) => tags !== undefined && Object.hasOwn(tags, key))

/** The keys of all tags of a host, its subnet and its network; one may be there twice. */
export const tagKeysOf = (model: Model, place: Place): string[] =>
  tagsOf(model, place).flatMap((tags) => (tags === undefined ? [] : Object.keys(tags)))

function tagsOf(model: Model, place: Place): (Record<string, string> | undefined)[] {
  const subnet = model.subnets[place.subnet]
  const network = subnet && model.networks[subnet.network]
  return [
    place.interface >= 0 ? model.interfaces[place.interface]!.source.tags : undefined,
    subnet && model.estate.subnets.get(subnet.id)?.tags,
    network && model.estate.networks.get(network.id)?.tags,
  ]
}

/** Whether an estate rule applies to a place. */
export function applies(model: Model, rule: EstateRule, place: Place): boolean {
  const to = rule.appliesTo ?? 'all'
  if (to === 'all') return true
  if (Array.isArray(to)) return to.some((ref) => refCovers(model, ref, place))
  if ('tag' in to) return hasTag(model, place, to.tag)
  return model.subnets[place.subnet]?.region === to.region
}

function refCovers(model: Model, ref: string, place: Place): boolean {
  const [section, id] = splitRef(ref)
  const subnet = model.subnets[place.subnet]
  switch (section) {
    case 'networks':
      return subnet !== undefined && model.networks[subnet.network]?.id === id
    case 'subnets':
      return subnet?.id === id
    case 'interfaces':
      return place.interface >= 0 && model.interfaces[place.interface]!.id === id
    case 'regions':
      return subnet?.region === id
    case 'groups':
      return groupCovers(model, id, place)
    default:
      return false
  }
}

/** Whether a group of a section has an object in it: by name, or by its condition. */
export function groupHas(model: Model, group: string, section: string, id: string): boolean {
  const index = model.index[section as 'subnets']?.get(id)
  if (index === undefined) return false
  switch (section) {
    case 'networks':
      return model.networks[index]!.subnets.some((subnet) =>
        groupCovers(model, group, { subnet, interface: -1 }),
      )
    case 'subnets':
      return groupCovers(model, group, { subnet: index, interface: -1 })
    case 'interfaces':
      return groupCovers(model, group, {
        subnet: model.interfaces[index]!.subnet,
        interface: index,
      })
    default: {
      const { members, except, where } = model.estate.groups.get(group)!
      if (except?.includes(id)) return false
      return (
        (members?.includes(id) ?? false) ||
        (where?.name !== undefined &&
          where.tag === undefined &&
          where.region === undefined &&
          wildcard(where.name, id))
      )
    }
  }
}

/**
 * A group's members are those it lists and those its condition finds, without the excepted ones.
 */
function groupCovers(model: Model, id: string, place: Place): boolean {
  const group = model.estate.groups.get(id)
  const subnet = model.subnets[place.subnet]
  if (!group || !subnet || group.state === 'deleted') return false
  const network = model.networks[subnet.network]
  const own =
    group.section === 'networks'
      ? network?.id
      : group.section === 'subnets'
        ? subnet.id
        : group.section === 'interfaces' && place.interface >= 0
          ? model.interfaces[place.interface]!.id
          : undefined
  if (own === undefined || group.except?.includes(own)) return false
  if (group.members?.includes(own)) return true
  const { where } = group
  if (!where) return false
  const place2 = group.section === 'interfaces' ? place : { ...place, interface: -1 }
  return (
    (where.tag === undefined ||
      (group.section === 'networks'
        ? networkHasTag(model, subnet.network, where.tag)
        : hasTag(model, place2, where.tag))) &&
    (where.region === undefined ||
      (group.section === 'networks' ? network?.region : subnet.region) === where.region) &&
    (where.name === undefined || wildcard(where.name, own))
  )
}

function networkHasTag(model: Model, network: number, condition: string): boolean {
  const at = condition.indexOf('=')
  const id = model.networks[network]?.id ?? ''
  return model.estate.networks.get(id)?.tags?.[condition.slice(0, at)] === condition.slice(at + 1)
}

/** `*` stands for any run of characters; everything else for itself. */
export function wildcard(pattern: string, text: string): boolean {
  const parts = pattern.split('*')
  if (parts.length === 1) return pattern === text
  if (!text.startsWith(parts[0]!)) return false
  let at = parts[0]!.length
  for (const part of parts.slice(1, -1)) {
    const found = text.indexOf(part, at)
    if (found < 0) return false
    at = found + part.length
  }
  const tail = parts.at(-1)!
  return text.length - at >= tail.length && text.endsWith(tail)
}
