import { isPublic } from '../../address/public'
import type { Estate, Via } from '../../format/estate'
import { publicAddressOf } from '../../walk/public-address'
import { covers, isUp, networkWith, type Situation } from '../situation'

/**
 * What in a network could carry its packets towards an address, the most fitting first: a peering
 * or transit to the network that has it, a private gateway to its site, an endpoint of its service,
 * else a door to the internet that suits the source.
 */
export function waysTowards(s: Situation, without: readonly string[] = []): Via[] {
  const { estate, network, dst } = s
  if (network === null) return []
  const target = networkWith(estate, dst)
  const found: Via[] = []
  if (target === network) return ['local']
  if (target !== undefined) {
    for (const [id, p] of estate.peerings)
      if (isUp(p) && joins([p.a.network, p.b.network], network, target)) found.push({ peering: id })
    for (const [id, transit] of estate.transits)
      if (isUp(transit) && joins(networksOf(transit), network, target)) found.push({ transit: id })
  }
  const site = [...estate.sites].find(([, one]) => isUp(one) && covers(one.ranges, dst))?.[0]
  if (site !== undefined) {
    for (const [id, g] of estate.gateways)
      if (isUp(g) && g.kind === 'private' && g.site === site && g.network === network)
        found.push({ gateway: id })
    for (const [id, transit] of estate.transits)
      if (
        isUp(transit) &&
        networksOf(transit).includes(network) &&
        sitesOf(estate, transit).includes(site)
      )
        found.push({ transit: id })
  }
  const service = [...estate.services].find(([, one]) => isUp(one) && covers(one.ranges, dst))?.[0]
  if (service !== undefined)
    for (const [id, e] of estate.endpoints)
      if (isUp(e) && e.style === 'routed' && e.service === service && e.network === network)
        found.push({ endpoint: id })
  if (isPublic(dst)) found.push(...doors(s, network))
  return found.filter(
    (via) => typeof via === 'string' || !Object.values(via).some((id) => without.includes(id)),
  )
}

const joins = (networks: readonly (string | undefined)[], a: string, b: string): boolean =>
  networks.includes(a) && networks.includes(b)
type Transit = Estate['transits'] extends ReadonlyMap<string, infer T> ? T : never
const networksOf = (transit: Transit): string[] =>
  Object.values(transit.attachments ?? {}).flatMap((one) => (isUp(one) ? (one.network ?? []) : []))
const sitesOf = (estate: Estate, transit: Transit): string[] =>
  Object.values(transit.attachments ?? {}).flatMap((one) =>
    isUp(one) ? (estate.gateways.get(one.gateway ?? '')?.site ?? []) : [],
  )

/** Doors to the internet: a gateway for what has or needs no other address, else a translator. */
function doors({ model, estate, network, src, dst }: Situation, id: string): Via[] {
  const gateways = (kind: string): Via[] =>
    [...estate.gateways]
      .filter(([, g]) => isUp(g) && g.kind === kind && g.network === id)
      .map(([gateway]) => ({ gateway }))
  if (typeof dst === 'bigint') return [...gateways('internet'), ...gateways('outbound-v6')]
  const nats: Via[] = [...estate.nats]
    .filter(
      ([, nat]) =>
        isUp(nat) &&
        nat.network === network &&
        (nat.kind ?? 'public') === 'public' &&
        nat.placement?.subnet !== undefined,
    )
    .map(([nat]) => ({ nat }))
  const number = model.index.networks.get(id)
  const direct =
    isPublic(src) || (number !== undefined && publicAddressOf(model, number, src) !== null)
  const open: Via[] = estate.networks.get(id)?.behaviour === 'default-open' ? ['internet'] : []
  return direct
    ? [...gateways('internet'), ...open, ...nats]
    : [...nats, ...gateways('internet'), ...open]
}
