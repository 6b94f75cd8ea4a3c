import { closest } from 'fastest-levenshtein'
import {
  addressPlus,
  familyOf,
  formatAddress,
  nextAddress,
  parseAddress,
  type Address,
  type Family,
} from '../address/address'
import { AddressMap } from '../address/address-map'
import { lastAddress, prefixFamily, prefixOf, type Prefix } from '../address/prefix'
import { longestMatch, matchAll } from '../address/prefix-table'
import { isPublic } from '../address/public'
import type { Model, Owner } from '../model/model'
import type { Place } from '../rules/place'
import { lowestInternetAddress } from '../walk/public-address'
import type { End } from '../walk/state'
import { outsideRef } from '../walk/steps/outside'
import { refuse, type ReadEnd, type Refusal } from './question'

/** An end found in an estate: where it is, and which address it has in each family. */
export interface FoundEnd {
  readonly kind: ReadEnd['kind']
  readonly end: End | null
  /** The network it is in, or −1. */
  readonly network: number
  readonly addresses: { readonly 4: Address | null; readonly 6: Address | null }
  /** How it is reached from the internet where that is another address. */
  readonly publicAddress: Address | null
}

type Part = 'from' | 'to'

/**
 * Finds an end of a question. `other` is the network of the other end, which settles addresses that
 * several networks have.
 */
export function findEnd(
  model: Model,
  read: ReadEnd,
  part: Part,
  other: number,
): FoundEnd | Refusal {
  switch (read.kind) {
    case 'internet':
      return outside(read.kind, 'internet', {
        4: lowestInternetAddress(model, 4),
        6: lowestInternetAddress(model, 6),
      })
    case 'interface':
      return findInterface(model, read.id, read.address, part)
    case 'subnet':
      return findSubnet(model, read.id, part)
    case 'site':
    case 'party':
    case 'service': {
      const section = ({ site: 'sites', party: 'parties', service: 'services' } as const)[read.kind]
      const object = model.index[section].has(read.id)
        ? model.estate[section].get(read.id)
        : undefined
      if (!object) return unknown(part, read.kind, read.id, [...model.index[section].keys()])
      const ranges = (object.ranges ?? []).map(prefixOf)
      const first = (family: Family): Address | null =>
        ranges.find((range) => prefixFamily(range) === family)?.address ?? null
      if (ranges.length === 0)
        return refuse(
          part,
          'no-address',
          `${section}/${read.id} has no ranges, so there is no address to ask for`,
        )
      return outside(read.kind, `${section}/${read.id}`, { 4: first(4), 6: first(6) })
    }
    case 'frontend':
      return findFrontend(model, read.id, part)
    case 'name':
      return outside('name', `name:${read.id}`, { 4: null, 6: null })
    case 'address':
      return findAddress(model, read.address, part, other)
  }
}

const outside = (
  kind: FoundEnd['kind'],
  ref: string,
  addresses: FoundEnd['addresses'],
): FoundEnd => ({
  kind,
  end: { in: 'outside', ref },
  network: -1,
  addresses,
  publicAddress: null,
})

/** A frontend is asked at its first public address, else at its first private one. */
function findFrontend(model: Model, id: string, part: Part): FoundEnd | Refusal {
  const index = model.index.frontends.get(id)
  if (index === undefined) return unknown(part, 'frontend', id, [...model.index.frontends.keys()])
  const { ref, network, addresses } = model.frontends[index]!
  const [door] = model.estate.frontends.get(id)?.publicAddresses ?? []
  const address = door === undefined ? addresses[0] : parseAddress(door)
  if (address == null)
    return refuse(part, 'no-address', `${ref} has no address, so it cannot be asked for`)
  return part === 'from'
    ? notWhereQuestionsBegin(model, address, { kind: 'frontend', index })
    : findAddress(model, address, part, network)
}

const both = (addresses: readonly Address[]): FoundEnd['addresses'] => ({
  4: addresses.find((a) => familyOf(a) === 4) ?? null,
  6: addresses.find((a) => familyOf(a) === 6) ?? null,
})

function inSubnet(
  model: Model,
  kind: FoundEnd['kind'],
  place: Place,
  addresses: FoundEnd['addresses'],
  publicAddress: Address | null,
): FoundEnd {
  const ref =
    place.interface >= 0 ? model.interfaces[place.interface]!.ref : model.subnets[place.subnet]!.ref
  return {
    kind,
    end: { in: 'subnet', place, ref },
    network: model.subnets[place.subnet]!.network,
    addresses,
    publicAddress,
  }
}

function findInterface(
  model: Model,
  id: string,
  address: Address | null,
  part: Part,
): FoundEnd | Refusal {
  const index = model.index.interfaces.get(id)
  if (index === undefined) return unknown(part, 'interface', id, [...model.index.interfaces.keys()])
  const one = model.interfaces[index]!
  if (one.subnet < 0)
    return refuse(
      part,
      'no-address',
      `interfaces/${id} is in no subnet, so nothing can be sent from or to it`,
    )
  if (one.addresses.length === 0)
    return refuse(part, 'no-address', `interfaces/${id} has no address`)
  if (address !== null && address !== one.publicAddress && !one.addresses.includes(address)) {
    const own = one.addresses.map(formatAddress)
    return refuse(
      part,
      'unknown-object',
      `interfaces/${id} does not have ${formatAddress(address)}; it has ${own.join(' and ')}`,
      own.map((a) => `interface:${id}@${a}`),
    )
  }
  const chosen =
    address === null
      ? one.addresses
      : one.addresses.filter((a) =>
          address === one.publicAddress ? familyOf(a) === 4 : a === address,
        )
  return inSubnet(
    model,
    'interface',
    { subnet: one.subnet, interface: index },
    both(chosen),
    one.publicAddress,
  )
}

function findSubnet(model: Model, id: string, part: Part): FoundEnd | Refusal {
  const index = model.index.subnets.get(id)
  if (index === undefined) return unknown(part, 'subnet', id, [...model.index.subnets.keys()])
  const subnet = model.subnets[index]!
  const taken = model.networks[subnet.network]?.owners ?? new AddressMap<unknown>()
  const free = (family: Family): Address | null => {
    const range = subnet.ranges.find((r) => prefixFamily(r) === family)
    return range ? lowestUsable(range, (address) => taken.has(address)) : null
  }
  const addresses = { 4: free(4), 6: free(6) }
  if (addresses[4] === null && addresses[6] === null)
    return refuse(
      part,
      'no-address',
      `subnets/${id} has no usable address that is not taken; name an interface in it`,
    )
  return inSubnet(model, 'subnet', { subnet: index, interface: -1 }, addresses, null)
}

/**
 * The lowest address of a subnet's range that hosts may use: not among the first four or the last
 * in IPv4.
 */
export function lowestUsable(range: Prefix, taken: (address: Address) => boolean): Address | null {
  const last = lastAddress(range)
  const v4 = typeof range.address === 'number'
  if (v4 && (last as number) - range.address < 5) return null
  let at: Address | null = v4 ? addressPlus(range.address, 4) : range.address
  while (at !== null && (v4 ? at < last : at <= last)) {
    if (!taken(at)) return at
    at = nextAddress(at)
  }
  return null
}

function findAddress(
  model: Model,
  address: Address,
  part: Part,
  other: number,
): FoundEnd | Refusal {
  const owner = model.publicOwners.get(address)
  if (owner && part === 'from') return beginAtPublic(model, address, owner)
  const subnets = matchAll(model.subnetSpace, address).groups.flatMap((group) => group.values)
  const networks = [...new Set(subnets.map((one) => model.subnets[one]!.network))]
  const network = networks.length > 1 ? networks.find((one) => one === other) : networks[0]
  if (networks.length > 1 && network === undefined) {
    const candidates = networks.map(
      (one) => `${model.networks[one]!.id} (${candidateIn(model, one, address)})`,
    )
    return refuse(
      part,
      'ambiguous',
      `${formatAddress(address)} exists in several networks: ${candidates.join(', ')}; name the interface or the subnet`,
      networks.map((one) => candidateIn(model, one, address)),
    )
  }
  return network === undefined
    ? findOutside(model, address, part)
    : findInside(model, address, part, {
        network,
        subnet: subnets.find((one) => model.subnets[one]!.network === network)!,
      })
}

const notWhereQuestionsBegin = (model: Model, address: Address, owner: Owner): Refusal =>
  refuse(
    'from',
    'unknown-object',
    `${formatAddress(address)} is an address of ${ownerRef(model, owner)}; a question begins at a host, a subnet or outside`,
  )

/** A question that begins at a public address of the estate begins at the host that has it. */
function beginAtPublic(model: Model, address: Address, owner: Owner): FoundEnd | Refusal {
  const one = owner.kind === 'interface' ? model.interfaces[owner.index]! : undefined
  return one && one.subnet >= 0
    ? inSubnet(
        model,
        'address',
        { subnet: one.subnet, interface: one.index },
        both(one.addresses),
        address,
      )
    : notWhereQuestionsBegin(model, address, owner)
}

/** An address of a subnet: the host that has it, or a place that is not taken. */
function findInside(
  model: Model,
  address: Address,
  part: Part,
  { network, subnet }: { readonly network: number; readonly subnet: number },
): FoundEnd | Refusal {
  const owner = model.networks[network]!.owners.get(address)
  if (owner && owner.kind !== 'interface' && part === 'from')
    return notWhereQuestionsBegin(model, address, owner)
  const place = { subnet, interface: owner?.kind === 'interface' ? owner.index : -1 }
  return inSubnet(model, 'address', place, both([address]), null)
}

/** An address of no subnet: of a site, or outside; private ones without an owner are refused. */
function findOutside(model: Model, address: Address, part: Part): FoundEnd | Refusal {
  const text = formatAddress(address)
  const addresses = both([address])
  const site = longestMatch(model.siteSpace, address)[0]
  if (site !== undefined) return outside('site', `sites/${site}`, addresses)
  if (part === 'to' || isPublic(address)) {
    const inNetwork = longestMatch(model.networkSpace, address)[0]
    if (part === 'from' && inNetwork !== undefined)
      return refuse(
        part,
        'unknown-object',
        `${text} is in the network ${model.networks[inNetwork]!.id}, but in none of its subnets`,
      )
    return { ...outside('address', outsideRef(model, address), addresses), network: -1 }
  }
  return refuse(
    part,
    'unknown-object',
    `nothing in this estate has ${text}: it is private, and in no subnet and no site`,
  )
}

function ownerRef(model: Model, owner: Owner): string {
  if (owner.kind === 'nat') return model.nats[owner.index]!.ref
  return owner.kind === 'frontend'
    ? model.frontends[owner.index]!.ref
    : `${model.interfaces[owner.index]!.ref}, which is in no subnet`
}

function candidateIn(model: Model, network: number, address: Address): string {
  const owner = model.networks[network]!.owners.get(address)
  if (owner?.kind === 'interface') return `interface:${model.interfaces[owner.index]!.id}`
  const subnet = longestMatch(model.networks[network]!.subnetSpace, address)[0]
  return subnet === undefined ? model.networks[network]!.ref : `subnet:${model.subnets[subnet]!.id}`
}

function unknown(part: Part, kind: string, id: string, known: readonly string[]): Refusal {
  if (known.length === 0)
    return refuse(
      part,
      'unknown-object',
      `there is no ${kind} "${id}", nor any other ${kind} in this estate`,
    )
  const near =
    known.length > 5000 ? known.filter((k) => k.startsWith(id.slice(0, 3))).slice(0, 200) : known
  const best = near.length > 0 ? [closest(id, near as string[])] : []
  const others = known
    .filter((k) => k !== best[0] && (k.includes(id) || id.includes(k)))
    .slice(0, 4)
  const candidates = [...best, ...others].map((k) => `${kind}:${k}`)
  const all =
    known.length <= 6
      ? `; there ${known.length === 1 ? 'is' : 'are'} ${known.join(', ')}`
      : `; did you mean ${candidates.join(', ') || known[0]}?`
  return refuse(
    part,
    'unknown-object',
    `there is no ${kind} "${id}" in this estate${all}`,
    candidates,
  )
}
