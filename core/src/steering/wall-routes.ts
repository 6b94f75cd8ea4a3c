import { addressPlus, formatAddress, type Family } from '../address/address'
import { containsPrefix, prefixFamily, prefixOf, type Prefix } from '../address/prefix'
import { pointer, type Operation } from '../changes/index'
import type { Firewall, Via } from '../format/estate'
import type { Model } from '../model/model'
import { subnetsOfWall } from './approach'

/**
 * A routed firewall's own routes to ranges behind its first side that no route of it leads to;
 * `isEnough` says which routes that cover a range do: all but a default, unless said otherwise.
 */
export function routesOfWall(
  model: Model,
  id: string,
  source: Firewall,
  ranges: readonly string[],
  isEnough: (covering: Prefix) => boolean = ({ length }) => length > 0,
): Operation[] {
  if (source.style !== 'routed' || source.routes === undefined) return []
  const known = source.routes.flatMap(({ to }) => (typeof to === 'string' ? [prefixOf(to)] : []))
  const [inside] = subnetsOfWall(model, source)
  return ranges.flatMap((to): Operation[] => {
    const own = prefixOf(to)
    if (known.some((one) => isEnough(one) && containsPrefix(one, own))) return []
    const router = routerOf(model, inside, prefixFamily(own))
    return router === null
      ? []
      : [{ op: 'add', path: pointer('firewalls', id, 'routes', '-'), value: { to, via: router } }]
  })
}

/** The subnet's own router, which takes over by the subnet's table. */
function routerOf(model: Model, subnet: string | undefined, family: Family): Via | null {
  const own = model.subnets[model.index.subnets.get(subnet ?? '') ?? -1]
  const range = own?.ranges.find((one) => prefixFamily(one) === family)
  return range ? { address: formatAddress(addressPlus(range.address, 1)) } : null
}

/** The receiving side of a peering takes what the firewall hands on for others. */
export function acceptForwarded(
  model: Model,
  network: string,
  peering: string | null,
): Operation[] {
  const source = peering === null ? undefined : model.estate.peerings.get(peering)
  if (!source) return []
  const side = source.a.network === network ? 'a' : 'b'
  if (source[side].acceptsForwarded) return []
  const op = source[side].acceptsForwarded === undefined ? 'add' : 'replace'
  return [{ op, path: pointer('peerings', peering!, side, 'acceptsForwarded'), value: true }]
}
