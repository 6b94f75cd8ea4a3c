import type { Address } from '../address/address'
import { prefixOf } from '../address/prefix'
import type { Model, NatModel, SubnetModel } from '../model/model'
import { inPrefixes, longestHere, type Note } from './scope'

/** The subnet of a network that a private source is in. */
export function subnetOf(
  model: Model,
  network: number,
  address: Address,
  note?: Note,
): SubnetModel | null {
  const index = longestHere(model.networks[network]!.subnetSpace, address, note)[0]
  return index === undefined ? null : model.subnets[index]!
}

/** Whether a NAT's `serves` covers a source: its subnet, and the range of the subnet it is in. */
export function servesSource(
  model: Model,
  nat: NatModel,
  subnet: SubnetModel,
  source: Address,
  note?: Note,
): boolean {
  const subnets = nat.source.serves?.subnets ?? 'all'
  if (subnets !== 'all' && !subnets.includes(subnet.id)) return false
  const ranges = nat.source.serves?.ranges ?? 'all'
  if (ranges === 'all') return true
  if (ranges === 'primary') return inPrefixes(subnet.ranges, source, note)
  const named = model.estate.subnets.get(subnet.id)?.namedRanges ?? {}
  const prefixes = ranges.flatMap((name) =>
    Object.hasOwn(named, name) ? [named[name]!].flat().map(prefixOf) : [],
  )
  return inPrefixes(prefixes, source, note)
}

/**
 * The first NAT by id that is attached to the network, up, in the source's region, and serves the
 * source.
 */
export function attachedNat(
  model: Model,
  network: number,
  source: Address,
  note: Note | undefined,
  noteSubnet: Note | undefined,
): NatModel | null {
  const subnet = subnetOf(model, network, source, noteSubnet)
  if (!subnet || typeof source !== 'number') return null
  const serves = (nat: NatModel): boolean =>
    nat.up &&
    nat.region !== null &&
    nat.kind === 'public' &&
    nat.region === subnet.region &&
    servesSource(model, nat, subnet, source, note)
  const nats = model.attached.nats.get(network) ?? []
  // Where a NAT serves some subnets only, it matters which one a source is in.
  if (
    note &&
    nats.some((nat) => nat.region !== null && (nat.source.serves?.subnets ?? 'all') !== 'all')
  )
    subnetOf(model, network, source, note)
  return nats.find(serves) ?? null
}
