import { formatAddress, type Address, type Family } from '../address/address'
import { containsAddress, prefixOf } from '../address/prefix'
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
  /** The first one’s addresses in that range. */
  readonly sources: { readonly [F in Family]: Address | null }
  readonly hasPublicAddress: boolean
  /** Those tags routes are limited to that they carry. */
  readonly tags: readonly string[]
  /** The named range of the subnet that these addresses are in; empty for its own ranges. */
  readonly range: string
}

/**
 * Groups the hosts of a subnet by what route choice and translators ask of them: whether they have
 * a public address of their own, which tags routes are limited to they carry, and whether they sit
 * in a named range. A host with addresses in several ranges is of one kind for each. A subnet
 * without hosts is asked for an unoccupied address.
 */
export function hostKinds(model: Model, subnet: SubnetModel): HostKind[] {
  const groups = new Map<string, { readonly first: HostKind; readonly interfaces: number[] }>()
  for (const index of subnet.interfaces) {
    const one = model.interfaces[index]!
    if (!one.up || one.addresses.length === 0) continue
    const place = { subnet: subnet.index, interface: index }
    const tags = limitingTagsOf(model, place)
    const hasPublicAddress = one.publicAddress !== null
    for (const [range, addresses] of byRange(subnet, one.addresses)) {
      const sources = sourcesOf(addresses)
      const families = `${sources[4] !== null} ${sources[6] !== null}`
      const key = `${hasPublicAddress} ${range} ${families} ${tags.join(' ')}`
      const known = groups.get(key)
      if (known) known.interfaces.push(index)
      else {
        const kind = { interfaces: [], place, ref: one.ref, sources, hasPublicAddress, tags, range }
        groups.set(key, { first: kind, interfaces: [index] })
      }
    }
  }
  if (groups.size === 0) return unoccupied(model, subnet)
  return [...groups.values()].map(({ first, interfaces }) => ({ ...first, interfaces }))
}

/** Addresses by the range of the subnet that they are in. */
function byRange(
  subnet: SubnetModel,
  addresses: readonly Address[],
): ReadonlyMap<string, readonly Address[]> {
  const out = new Map<string, Address[]>()
  for (const address of addresses) {
    const range = rangeNameOf(subnet, address)
    const known = out.get(range)
    if (known) known.push(address)
    else out.set(range, [address])
  }
  return out
}

/** The named range of a subnet that an address is in; empty for the subnet’s own ranges. */
export function rangeNameOf({ ranges, source }: SubnetModel, address: Address): string {
  if (ranges.some((range) => containsAddress(range, address))) return ''
  for (const [name, own] of Object.entries(source.namedRanges ?? {}))
    for (const prefix of typeof own === 'string' ? [own] : own)
      if (containsAddress(prefixOf(prefix), address)) return name
  return ''
}

/** How a question names where the first host of a kind is, at its address of the kind. */
export function askedFrom(
  model: Model,
  subnet: Pick<SubnetModel, 'id'>,
  { interfaces, sources }: Pick<HostKind, 'interfaces' | 'sources'>,
): string {
  const [first] = interfaces
  if (first === undefined) return `subnet:${subnet.id}`
  const { id, addresses } = model.interfaces[first]!
  const source = sources[4] ?? sources[6]
  const own = addresses.find((one) => typeof one === typeof source)
  return source === null || own === source
    ? `interface:${id}`
    : `interface:${id}@${formatAddress(source)}`
}

const sourcesOf = (addresses: readonly Address[]): HostKind['sources'] => ({
  4: addresses.find((a) => typeof a === 'number') ?? null,
  6: addresses.find((a) => typeof a === 'bigint') ?? null,
})

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
      range: '',
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
