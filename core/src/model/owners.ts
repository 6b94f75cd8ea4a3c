import type { Address } from '../address/address'
import { AddressMap } from '../address/address-map'
import { addressOf } from '../address/prefix'
import type { Estate } from '../format/estate'
import type { FrontendModel, InterfaceModel, Model, NatModel, Owner, SubnetModel } from './model'

/**
 * The owners of addresses, network by network: interfaces, private NATs and frontends, in this
 * order.
 */
export function compileOwners(
  index: Model['index'],
  interfaces: readonly InterfaceModel[],
  nats: readonly NatModel[],
  subnets: readonly SubnetModel[],
  frontends: readonly FrontendModel[],
): Map<number, Map<Address, Owner>> {
  const owners = new Map<number, Map<Address, Owner>>()
  const put = (network: number, address: Address, owner: Owner): void => {
    if (network < 0) return
    const map = owners.get(network) ?? new AddressMap<Owner>()
    owners.set(network, map)
    if (!map.has(address)) map.set(address, owner)
  }
  for (const one of interfaces) {
    if (!index.interfaces.has(one.id) || one.subnet < 0) continue
    for (const address of one.addresses)
      put(subnets[one.subnet]!.network, address, { kind: 'interface', index: one.index })
  }
  for (const nat of nats) {
    if (nat.kind !== 'private' || !index.nats.has(nat.id)) continue
    for (const address of natAddresses(nat))
      put(nat.network, address, { kind: 'nat', index: nat.index })
  }
  for (const frontend of frontends) {
    if (!index.frontends.has(frontend.id)) continue
    for (const address of frontend.addresses)
      put(frontend.network, address, { kind: 'frontend', index: frontend.index })
  }
  return owners
}

const natAddresses = (nat: NatModel): Address[] => [
  ...nat.addresses,
  ...nat.rules.flatMap((rule) => rule.use),
]

/**
 * The owner that answers to a public address from outside: an interface before a NAT before a
 * frontend.
 */
export function compilePublicOwners(
  estate: Estate,
  interfaces: readonly InterfaceModel[],
  nats: readonly NatModel[],
  index: Model['index'],
): Map<Address, Owner> {
  const out = new AddressMap<Owner>()
  for (const one of interfaces) {
    if (one.publicAddress !== null && index.interfaces.has(one.id))
      out.set(one.publicAddress, { kind: 'interface', index: one.index })
  }
  for (const nat of nats) {
    if (nat.kind === 'public' && index.nats.has(nat.id))
      for (const address of natAddresses(nat))
        if (!out.has(address)) out.set(address, { kind: 'nat', index: nat.index })
  }
  let number = 0
  for (const [id, frontend] of estate.frontends) {
    const owner: Owner = { kind: 'frontend', index: number++ }
    if (index.frontends.has(id))
      for (const text of frontend.publicAddresses ?? [])
        if (!out.has(addressOf(text))) out.set(addressOf(text), owner)
  }
  return out
}
