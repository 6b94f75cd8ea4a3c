import { derived, sameItems } from '../incremental/derived'
import { parseAddress, type Address } from '../address/address'
import { AddressMap } from '../address/address-map'
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

/**
 * The addresses by which the internet could reach an interface: its own, and those translated to
 * it.
 */
export function doorsTo(model: Model, index: number): Address[] {
  const host = model.interfaces[index]!
  const global = host.addresses.filter((address) => typeof address === 'bigint')
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
