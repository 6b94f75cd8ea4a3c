import { familyOf, formatAddress, parseAddress, type Address, type Family } from '../address/address'
import { addressOf, prefixFamily, prefixOf } from '../address/prefix'
import type { Model } from '../model/model'
import { wildcard } from '../rules/rule-book'

/** Who answered for a name, and with what. */
export interface NameAnswer {
  readonly answeredBy: string
  readonly addresses: readonly Address[]
}

const isUp = (object: { readonly state?: string }): boolean => (object.state ?? 'up') === 'up'

/**
 * Looks a name up as hosts of a network do (design part 3.2): name zones linked to it, the longest
 * suffix first; addressed endpoints with private names; services; parties. Null where nobody knows it.
 */
export function resolveName(model: Model, network: number, name: string): NameAnswer | null {
  const { estate } = model
  const asked = name.toLowerCase().replace(/\.$/, '')
  const own = model.networks[network]?.id
  const zones = [...estate.nameZones]
    .filter(
      ([id, zone]) => isUp(zone) && own !== undefined && zone.linkedTo?.includes(own) && (asked === id.toLowerCase() || asked.endsWith(`.${id.toLowerCase()}`)),
    )
    .sort(([a], [b]) => b.length - a.length)
  for (const [id, zone] of zones) {
    const record = Object.entries(zone.records ?? {}).find(([key]) => key.toLowerCase().replace(/\.$/, '') === asked)
    if (record && record[1].length > 0) return { answeredBy: `nameZones/${id}`, addresses: record[1].map(addressOf) }
  }
  const covers = (names: readonly string[] | undefined): boolean => (names ?? []).some((pattern) => wildcard(pattern.toLowerCase(), asked))
  for (const [id, endpoint] of estate.endpoints) {
    if (endpoint.style !== 'addressed' || !endpoint.privateNames || !isUp(endpoint) || endpoint.network !== own) continue
    if (!covers(estate.services.get(endpoint.service)?.names)) continue
    const addresses = (endpoint.interfaces ?? []).flatMap((one) => model.interfaces[model.index.interfaces.get(one) ?? -1]?.addresses ?? [])
    if (addresses.length > 0) return { answeredBy: `endpoints/${id}`, addresses }
  }
  for (const section of ['services', 'parties'] as const) {
    for (const [id, object] of estate[section]) {
      const addresses = firstOfEach((object.ranges ?? []).map(prefixOf).map((p) => ({ family: prefixFamily(p), address: p.address })))
      if (covers(object.names) && isUp(object) && addresses.length > 0) return { answeredBy: `${section}/${id}`, addresses }
    }
  }
  return null
}

const firstOfEach = (ranges: readonly { family: Family; address: Address }[]): Address[] =>
  ([4, 6] as const).flatMap((family) => ranges.find((range) => range.family === family)?.address ?? [])

/** The name servers a network's hosts ask; none means the provider's own, which always answer. */
export function nameServersOf(model: Model, network: number): Address[] {
  const id = model.networks[network]?.id
  return (id === undefined ? [] : (model.estate.networks.get(id)?.nameServers ?? [])).flatMap((text) => parseAddress(text) ?? [])
}

/** The addresses of an answer a source can use: IPv4 where it has both. */
export function usable(answer: NameAnswer, has: { readonly 4: boolean; readonly 6: boolean }): Address[] {
  const family = ([4, 6] as const).find((f) => has[f] && answer.addresses.some((a) => familyOf(a) === f))
  return family === undefined ? [] : answer.addresses.filter((a) => familyOf(a) === family)
}

export const addressTexts = (addresses: readonly Address[]): string[] => addresses.map(formatAddress)
