import { type Bits, coveredBy } from './bits'
import { type Journey, lose } from './journey'
import { up, inNetwork } from './world'

export const peered = (j: Journey, a: string, b: string): string | undefined =>
  [...j.estate.peerings]
    .filter(([, p]) => up(p) && [p.a.network, p.b.network].sort().join() === [a, b].sort().join())
    .map(([id]) => id)
    .sort()[0]

/** Over a peering; returns the network on its other side. */

export function crossPeering(
  j: Journey,
  id: string,
  network: string,
  use: 'destination' | 'next-hop' | 'lent',
): string {
  const { a, b, ...rest } = j.estate.peerings.get(id)!
  const far = a.network === network ? b : a
  const ref = `peerings/${id}`
  j.way.push(ref)
  if (!up(rest)) lose(j, 'target-not-up', ref)
  if (use === 'destination' && !inNetwork(j.estate.networks.get(far.network), j.packet.dst))
    lose(j, 'peering-not-transitive', ref)
  const near = a.network === network ? a : b
  const lent =
    (near.lendsGateway && far.usesPeerGateway && learnedBy(j, near.network, j.packet.src)) ||
    (near.usesPeerGateway && far.lendsGateway && learnedBy(j, far.network, j.packet.dst))
  const foreign = !inNetwork(j.estate.networks.get(network), j.packet.src)
  if (use !== 'lent' && !lent && !far.acceptsForwarded && foreign) lose(j, 'forwarded-refused', ref)
  return far.network
}

/** Whether a private gateway of a network learned an address. */
const learnedBy = (j: Journey, network: string, address: Bits): boolean =>
  up(j.estate.networks.get(network)) &&
  [...j.estate.gateways.values()].some((one) => {
    if (one.kind !== 'private' || one.network !== network || !up(one)) return false
    const site = j.estate.sites.get(one.site ?? '')
    return coveredBy(one.learned ?? (up(site) ? site!.ranges : undefined), address)
  })
