import { prefixOf, type Prefix } from '../address/prefix'
import { prefixTable, type PrefixTable } from '../address/prefix-table'
import type { Estate } from '../format/estate'
import { transitRanges } from './learned'
import type { Entrance, GatewayModel, NetworkModel, PeeringModel, TransitModel } from './model'

/**
 * By which gateways a site comes in, and what each announces to it: what it is said to announce,
 * else its network's ranges and those of peers that use it, or what the table of its transit's
 * attachment leads to.
 */
export function compileEntrances(
  estate: Estate,
  gateways: readonly GatewayModel[],
  networks: readonly NetworkModel[],
  peerings: readonly PeeringModel[],
  transits: readonly TransitModel[],
): Map<string, Entrance[]> {
  const behind = attachmentsByGateway(transits)
  const out = new Map<string, Entrance[]>()
  for (const gateway of gateways) {
    if (gateway.kind !== 'private' || !gateway.up || gateway.site === null) continue
    const written = estate.gateways.get(gateway.id)?.announces?.map(prefixOf)
    const table = (prefixes: readonly Prefix[]): PrefixTable<number> =>
      prefixTable(prefixes.map((prefix) => ({ prefix, value: prefix.length })))
    const add = (
      announces: readonly Prefix[],
      transit: Entrance['transit'],
      users: readonly number[],
    ): void =>
      void out.set(gateway.site!, [
        ...(out.get(gateway.site!) ?? []),
        { gateway: gateway.index, announces: table(announces), transit, users },
      ])
    const network = networks[gateway.network]
    if (network?.up) {
      const users = usersOf(peerings, network.index)
      add(
        written ?? [network, ...users.map((user) => networks[user]!)].flatMap((n) => n.ranges),
        null,
        users,
      )
    }
    for (const [transit, attachment] of behind.get(gateway.id) ?? [])
      add(
        written ?? transitRanges(estate, transit.source, attachment),
        { index: transit.index, attachment },
        [],
      )
  }
  return out
}

function attachmentsByGateway(
  transits: readonly TransitModel[],
): Map<string, [TransitModel, string][]> {
  const out = new Map<string, [TransitModel, string][]>()
  for (const transit of transits) {
    if (!transit.up) continue
    for (const [name, { gateway, state }] of Object.entries(transit.source.attachments ?? {})) {
      if (gateway !== undefined && (state ?? 'up') === 'up')
        out.set(gateway, [...(out.get(gateway) ?? []), [transit, name]])
    }
  }
  return out
}

/** The networks that use the private gateways a network lends them, in their order. */
function usersOf(peerings: readonly PeeringModel[], lender: number): number[] {
  const users = peerings
    .filter((p) => p.up)
    .flatMap(({ a, b }) => {
      if (b.network === lender && b.lendsGateway && a.usesPeerGateway) return [a.network]
      return a.network === lender && a.lendsGateway && b.usesPeerGateway ? [b.network] : []
    })
  return [...new Set(users)].sort((x, y) => x - y)
}
