import { parseAddress, type Address } from '../address/address'
import type { Model } from '../model/model'

/** The addresses by which the internet could reach an interface: its own, and those translated to it. */
export function doorsTo(model: Model, index: number): Address[] {
  const host = model.interfaces[index]!
  const global = host.addresses.filter((address) => typeof address === 'bigint')
  const translated = model.firewalls.flatMap(({ source, interfaces, up }) => {
    if (source.style !== 'routed' || !up) return []
    const leads = (source.destinationTranslation ?? []).some((rule) => host.addresses.includes(parseAddress(rule.forward.address)!))
    return leads ? interfaces.flatMap((side) => model.interfaces[side.interface]!.publicAddress ?? []) : []
  })
  return [...new Set([...(host.publicAddress === null ? [] : [host.publicAddress]), ...global, ...translated])]
}
