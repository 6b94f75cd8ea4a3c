import { derived, sameItems } from '../incremental/derived'
import { parseAddress, type Address } from '../address/address'
import { AddressMap } from '../address/address-map'
import { isPublic } from '../address/public'
import type { Model } from '../model/model'

/** The public addresses of firewalls that translate to an address, by that address. */
const translations = derived(
  (model: Model): ReadonlyMap<Address, readonly Address[]> => {
    const doors = new AddressMap<Address[]>()
    for (const { source, interfaces, up } of model.firewalls) {
      if (source.style !== 'routed' || !up) continue
      for (const { forward } of source.destinationTranslation ?? []) {
        const address = parseAddress(forward.address)!
        const own = interfaces.flatMap(
          (side) => model.interfaces[side.interface]!.publicAddress ?? [],
        )
        doors.set(address, [...(doors.get(address) ?? []), ...own])
      }
    }
    return doors
  },
  {
    same: (a, b) =>
      sameItems(a.keys(), b.keys()) &&
      [...a].every(([address, own]) => sameItems(own, b.get(address)!)),
  },
)

/** The public addresses of frontends by the number of the interface that takes their flows. */
const published = derived(
  (model: Model): ReadonlyMap<number, readonly PublishedPort[]> => {
    const doors = new Map<number, PublishedPort[]>()
    for (const { id, up, listeners } of model.frontends) {
      const addresses = (model.estate.frontends.get(id)?.publicAddresses ?? []).map((text) =>
        parseAddress(text)!,
      )
      if (!up) continue
      for (const { protocol, port, targets } of listeners)
        for (const target of targets) {
          const list = doors.get(target) ?? []
          doors.set(target, list)
          for (const address of addresses) list.push({ address, protocol, port })
        }
    }
    return doors
  },
  {
    same: (a, b) =>
      sameItems(a.keys(), b.keys()) &&
      [...a].every(
        ([index, list]) =>
          list.length === b.get(index)!.length &&
          list.every((one, at) => {
            const other = b.get(index)![at]!
            return (
              one.address === other.address &&
              one.protocol === other.protocol &&
              one.port === other.port
            )
          }),
      ),
  },
)

/** A port of a public address that a frontend hands on. */
export interface PublishedPort {
  readonly address: Address
  /** Null for every protocol with ports. */
  readonly protocol: number | null
  readonly port: number
}

/** The ports by which frontends lead the internet to an interface. */
export const portsTo = (model: Model, index: number): readonly PublishedPort[] =>
  published(model).get(index) ?? []

/**
 * The addresses by which the internet could reach an interface: its public one, its own that are
 * public themselves, of either family, and those translated to it.
 */
export function doorsTo(model: Model, index: number): Address[] {
  const host = model.interfaces[index]!
  const global = host.addresses.filter(isPublic)
  const doors = translations(model)
  const translated = host.addresses.flatMap((address) => doors.get(address) ?? [])
  return [
    ...new Set([
      ...(host.publicAddress === null ? [] : [host.publicAddress]),
      ...global,
      ...translated,
    ]),
  ]
}
