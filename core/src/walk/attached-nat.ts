import type { Address } from '../address/address'
import { containsAddress, prefixOf } from '../address/prefix'
import { longestMatch } from '../address/prefix-table'
import type { Model, NatModel, SubnetModel } from '../model/model'

/** The subnet of a network that a private source is in. */
export function subnetOf(model: Model, network: number, address: Address): SubnetModel | null {
  const index = longestMatch(model.networks[network]!.subnetSpace, address)[0]
  return index === undefined ? null : model.subnets[index]!
}

/** Whether a NAT's `serves` covers a source: its subnet, and the range of the subnet it is in. */
export function servesSource(model: Model, nat: NatModel, subnet: SubnetModel, source: Address): boolean {
  const subnets = nat.source.serves?.subnets ?? 'all'
  if (subnets !== 'all' && !subnets.includes(subnet.id)) return false
  const ranges = nat.source.serves?.ranges ?? 'all'
  if (ranges === 'all') return true
  if (ranges === 'primary') return subnet.ranges.some((range) => containsAddress(range, source))
  const named = model.estate.subnets.get(subnet.id)?.namedRanges ?? {}
  return ranges.some((name) => Object.hasOwn(named, name) && [named[name]!].flat().some((text) => containsAddress(prefixOf(text), source)))
}

/** The first NAT by id that is attached to the network, up, in the source's region, and serves the source. */
export function attachedNat(model: Model, network: number, source: Address): NatModel | null {
  const subnet = subnetOf(model, network, source)
  if (!subnet || typeof source !== 'number') return null
  const serves = (nat: NatModel): boolean =>
    nat.up && nat.region !== null && nat.kind === 'public' && nat.region === subnet.region && servesSource(model, nat, subnet, source)
  return model.attached.nats.get(network)?.find(serves) ?? null
}
