import { compareAddresses, formatAddress, parseAddress, type Address } from '../../address/address'
import { AddressMap } from '../../address/address-map'
import {
  comparePrefixes,
  containsAddress,
  containsPrefix,
  formatPrefix,
  isPrefixFault,
  lastAddress,
  parsePrefix,
  type Prefix,
} from '../../address/prefix'

import type { Subnet } from '../estate'
import type { Path } from '../read/source'
import type { Checking } from './checking'

/**
 * A prefix of an estate that may hold faults of its own: those were reported already, here they are
 * passed over.
 */
export function validPrefixes(texts: readonly string[] | undefined): Prefix[] {
  return (texts ?? []).flatMap((text) => {
    const prefix = parsePrefix(text)
    return isPrefixFault(prefix) ? [] : [prefix]
  })
}

interface Placed {
  readonly subnet: string
  readonly prefix: Prefix
  readonly path: Path
}

/**
 * Ranges inside their network, subnets apart from one another, addresses inside their subnet and
 * given once.
 */
export function checkAddressing(checking: Checking): void {
  for (const placed of placedRanges(checking).values()) checkApart(checking, placed)
  checkInterfaces(checking)
}

/** The ranges of subnets by network; those outside their network are reported. */
function placedRanges({ estate, error }: Checking): ReadonlyMap<string, Placed[]> {
  const networkRanges = new Map(
    [...estate.networks].map(([id, network]) => [id, validPrefixes(network.ranges)]),
  )
  const placed = new Map<string, Placed[]>()
  for (const [id, subnet] of estate.subnets) {
    const outer = networkRanges.get(subnet.network)
    if (!outer) continue
    for (const { prefix, path } of rangesOf(subnet)) {
      if (!outer.some((range) => containsPrefix(range, prefix))) {
        const ranges = outer.map(formatPrefix).join(', ') || 'none'
        error(
          { section: 'subnets', id, path },
          'subnet-outside-network',
          `${formatPrefix(prefix)} lies outside the ranges of its network ${subnet.network} (${ranges})`,
        )
      }
      const list = placed.get(subnet.network)
      if (list) list.push({ subnet: id, prefix, path })
      else placed.set(subnet.network, [{ subnet: id, prefix, path }])
    }
  }
  return placed
}

/** Reports ranges of a network that lie in another one. */
function checkApart({ error }: Checking, placed: Placed[]): void {
  let widest: Placed | undefined
  for (const one of placed.sort((a, b) => comparePrefixes(a.prefix, b.prefix))) {
    if (widest && containsPrefix(widest.prefix, one.prefix)) {
      const other =
        widest.subnet === one.subnet ? 'another range of this subnet' : `subnet ${widest.subnet}`
      error(
        { section: 'subnets', id: one.subnet, path: one.path },
        'subnets-overlap',
        `${formatPrefix(one.prefix)} overlaps ${formatPrefix(widest.prefix)} of ${other}`,
      )
    } else if (!widest || compareAddresses(lastAddress(one.prefix), lastAddress(widest.prefix)) > 0)
      widest = one
  }
}

function checkInterfaces(checking: Checking): void {
  const { estate } = checking
  const subnetRanges = new Map<string, Prefix[]>()
  const owners = new Map<string, Map<Address, string>>()
  for (const [id, one] of estate.interfaces) {
    const subnet = one.subnet === undefined ? undefined : estate.subnets.get(one.subnet)
    if (!subnet) continue
    let ranges = subnetRanges.get(one.subnet!)
    if (!ranges) {
      ranges = rangesOf(subnet).map((range) => range.prefix)
      subnetRanges.set(one.subnet!, ranges)
    }
    const taken = owners.get(subnet.network) ?? new AddressMap<string>()
    owners.set(subnet.network, taken)
    const home = { id, subnetId: one.subnet!, subnet, ranges, taken }
    one.addresses?.forEach((text, index) => checkAddress(checking, home, text, index))
  }
}

/** Where an interface stands: its subnet, and the owners of addresses in its network. */
interface Home {
  readonly id: string
  readonly subnetId: string
  readonly subnet: Subnet
  readonly ranges: readonly Prefix[]
  readonly taken: Map<Address, string>
}

function checkAddress(
  { error, warning }: Checking,
  { id, subnetId, subnet, ranges, taken }: Home,
  text: string,
  index: number,
): void {
  const address = parseAddress(text)
  if (address === null) return
  const at = { section: 'interfaces', id, path: ['addresses', index] } as const
  if (!ranges.some((range) => containsAddress(range, address)))
    error(
      at,
      'address-outside-subnet',
      `${text} lies outside its subnet ${subnetId} (${ranges.map(formatPrefix).join(', ')})`,
    )
  const owner = taken.get(address)
  if (owner !== undefined)
    error(
      at,
      'duplicate-address',
      `${text} belongs to interface ${owner} already; an address is given once in a network`,
    )
  else taken.set(address, id)
  const reserved = validPrefixes(subnet.ranges).find((range) => isReserved(range, address))
  if (reserved)
    warning(
      at,
      'reserved-address',
      `${text} is ${reservedText(reserved, address)} of ${formatPrefix(reserved)}; providers keep the first four and the last address of a subnet for themselves`,
    )
}

/** All ranges of a subnet, its named ones too, each with the path at which it stands. */
export function rangesOf(subnet: Subnet): { prefix: Prefix; path: Path }[] {
  const out: { prefix: Prefix; path: Path }[] = []
  const add = (text: string, path: Path): void => {
    const prefix = parsePrefix(text)
    if (!isPrefixFault(prefix)) out.push({ prefix, path })
  }
  subnet.ranges.forEach((text, index) => add(text, ['ranges', index]))
  for (const [name, value] of Object.entries(subnet.namedRanges ?? {})) {
    if (typeof value === 'string') add(value, ['namedRanges', name])
    else value.forEach((text, index) => add(text, ['namedRanges', name, index]))
  }
  return out
}

/** The first four and the last address of an IPv4 subnet range are kept by the provider. */
export const isReserved = (range: Prefix, address: Address): boolean =>
  typeof address === 'number' &&
  containsAddress(range, address) &&
  (address - (range.address as number) < 4 || address === lastAddress(range))

const reservedText = (range: Prefix, address: Address): string =>
  address === lastAddress(range)
    ? `the last address, ${formatAddress(address)},`
    : 'one of the first four addresses'
