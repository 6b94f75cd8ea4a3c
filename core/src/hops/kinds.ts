import { compareAddresses, type Address, type Family } from '../address/address'
import { lastAddress } from '../address/prefix'
import type { Model, SubnetModel } from '../model/model'
import type { Place } from '../rules/place'
import { limitingKeys } from '../routes/own-routes'
import { tagKeysOf } from '../rules/applies-to'
import { findEnd } from '../trace/ends'
import { isRefusal } from '../trace/question'

/** Hosts of a subnet that routing cannot tell apart. */
export interface HostKind {
  /** Their interfaces; empty for unoccupied addresses. */
  readonly interfaces: readonly number[]
  /** Where the first of them is. */
  readonly place: Place
  readonly ref: string
  /** The first one’s addresses. */
  readonly sources: { readonly [F in Family]: Address | null }
  readonly hasPublicAddress: boolean
  /** Those tags routes are limited to that they carry. */
  readonly tags: readonly string[]
  /** True where their addresses are in the subnet’s own ranges, not in its named ones. */
  readonly primary: boolean
}

/**
 * Groups the hosts of a subnet by what route choice and translators ask of them: whether they have
 * a public address of their own, which tags routes are limited to they carry, and whether they sit
 * in a named range. A subnet without hosts is asked for an unoccupied address.
 */
export function hostKinds(model: Model, subnet: SubnetModel): HostKind[] {
  const groups = new Map<string, number[]>()
  const carriedBy = (index: number): string[] =>
    limitingTagsOf(model, { subnet: subnet.index, interface: index })
  for (const index of subnet.interfaces) {
    const one = model.interfaces[index]!
    if (!one.up || one.addresses.length === 0) continue
    const families = one.addresses.reduce<number>(
      (sum, a) => sum | (typeof a === 'number' ? 1 : 2),
      0,
    )
    const key = `${one.publicAddress !== null} ${isPrimary(subnet, one.addresses)} ${families} ${carriedBy(index).join(' ')}`
    const group = groups.get(key)
    if (group) group.push(index)
    else groups.set(key, [index])
  }
  if (groups.size === 0) return unoccupied(model, subnet)
  return [...groups.values()].map((interfaces): HostKind => {
    const first = model.interfaces[interfaces[0]!]!
    return {
      interfaces,
      place: { subnet: subnet.index, interface: first.index },
      ref: first.ref,
      sources: sourcesOf(first.addresses),
      hasPublicAddress: first.publicAddress !== null,
      tags: carriedBy(first.index),
      primary: isPrimary(subnet, first.addresses),
    }
  })
}

const sourcesOf = (addresses: readonly Address[]): HostKind['sources'] => ({
  4: addresses.find((a) => typeof a === 'number') ?? null,
  6: addresses.find((a) => typeof a === 'bigint') ?? null,
})

const isPrimary = (subnet: SubnetModel, addresses: readonly Address[]): boolean =>
  addresses.every((a) =>
    subnet.ranges.some(
      (r) =>
        typeof r.address === typeof a && r.address <= a && compareAddresses(a, lastAddress(r)) <= 0,
    ),
  )

function unoccupied(model: Model, subnet: SubnetModel): HostKind[] {
  const end = findEnd(model, { kind: 'subnet', id: subnet.id, address: null }, 'from', -1)
  if (isRefusal(end) || end.end?.in !== 'subnet') return []
  return [
    {
      interfaces: [],
      place: end.end.place,
      ref: end.end.ref,
      sources: end.addresses,
      hasPublicAddress: subnet.givesPublicAddresses,
      tags: limitingTagsOf(model, { subnet: subnet.index, interface: -1 }),
      primary: true,
    },
  ]
}

/** Of the tags at a place, those that a route of its priority-routed network is limited to. */
function limitingTagsOf(model: Model, place: Place): string[] {
  const { network, table } = model.subnets[place.subnet]!
  if (model.networks[network]?.behaviour !== 'priority-routed' || table < 0) return []
  const { routes } = model.tables[table]!
  return limitingKeys(routes, new Set(tagKeysOf(model, place)))
}
