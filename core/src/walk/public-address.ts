import { derived } from '../incremental/derived'
import { addressPlus, type Address } from '../address/address'
import { addressOf, hostPrefix, prefixOf } from '../address/prefix'
import { sameRanges, rangeSetOf, subtractRanges, type RangeSet } from '../address/ranges'
import type { Model } from '../model/model'
import { longestHere, ownerHere, type Note } from './scope'

/** A public address that the provider would give, and that cannot be known beforehand. */
export const SOME_ADDRESS = 'some'

/**
 * The public address that stands one to one for a private IPv4 source of `network`: its
 * interface's, `SOME_ADDRESS` for an unoccupied address whose subnet gives them, else null. Only an
 * interface of this very network counts.
 */
export function publicAddressOf(
  model: Model,
  network: number,
  source: Address,
  note?: Note,
): Address | typeof SOME_ADDRESS | null {
  if (typeof source !== 'number') return null
  const { owners, subnetSpace } = model.networks[network]!
  const owner = ownerHere(owners, source, note)
  if (owner?.kind === 'frontend') return frontendPublicAddress(model, owner.index)
  if (owner) return owner.kind === 'interface' ? model.interfaces[owner.index]!.publicAddress : null
  const subnet = longestHere(subnetSpace, source, note)[0]
  return subnet !== undefined && model.subnets[subnet]!.givesPublicAddresses ? SOME_ADDRESS : null
}

/** A frontend is seen from outside at its public address, in both directions. */
function frontendPublicAddress(model: Model, index: number): Address | null {
  const text = model.estate.frontends.get(model.frontends[index]!.id)?.publicAddresses?.[0]
  return text === undefined ? null : addressOf(text)
}

/**
 * The lowest public address that is in nothing of the estate: what `internet` stands for as an end.
 */
export function lowestInternetAddress(model: Model, family: 4 | 6): Address {
  return nobodysSpace(model).find((r) => typeof r.from === (family === 4 ? 'number' : 'bigint'))!
    .from
}

/**
 * The address a packet carries for one that cannot be known beforehand: public, without an owner,
 * and not that of the `internet` end.
 */
export const standInAddress = (model: Model): Address =>
  addressPlus(lowestInternetAddress(model, 4), 1)

/**
 * The public addresses that are in no network, site, service, party or list of public addresses.
 */
export const nobodysSpace = derived(
  (model: Model): RangeSet => {
    const named = [
      ...model.estate.sites.values(),
      ...model.estate.services.values(),
      ...model.estate.parties.values(),
    ].flatMap((o) => (o.ranges ?? []).map(prefixOf))
    const single = [...model.publicOwners.keys(), ...model.inventory].map(hostPrefix)
    return subtractRanges(model.internetSpace, rangeSetOf([...named, ...single]))
  },
  { same: sameRanges },
)
