import { derived } from '../incremental/derived'
import {
  familyOf,
  formatAddress,
  parseAddress,
  type Address,
  type Family,
} from '../address/address'
import { addressOf, prefixFamily, prefixOf } from '../address/prefix'
import type { Model } from '../model/model'
import { wildcard } from '../rules/applies-to'

/** Who answered for a name, and with what. */
export interface NameAnswer {
  readonly answeredBy: string
  readonly addresses: readonly Address[]
}

/**
 * What of an estate answers for names in one network: its zones, and its endpoints with names of
 * their own.
 */
interface Resolver {
  readonly zones: readonly {
    readonly id: string
    readonly suffix: string
    readonly records: ReadonlyMap<string, readonly string[]>
  }[]
  readonly endpoints: readonly string[]
}

const resolverOf = derived((model: Model, network: number): Resolver =>
  makeResolver(model, network),
)

function makeResolver({ estate, networks }: Model, network: number): Resolver {
  const own = networks[network]?.id
  const plain = (name: string): string => name.toLowerCase().replace(/\.$/, '')
  const zones = [...estate.nameZones]
    .filter(([, zone]) => isUp(zone) && own !== undefined && zone.linkedTo?.includes(own))
    .sort(([a], [b]) => b.length - a.length)
    .map(([id, zone]) => {
      // Of two records of one name the first counts.
      const records = new Map(
        Object.entries(zone.records ?? {})
          .reverse()
          .map(([name, addresses]) => [plain(name), addresses]),
      )
      return { id, suffix: id.toLowerCase(), records }
    })
  const endpoints = [...estate.endpoints].flatMap(([id, one]) =>
    one.style === 'addressed' && one.privateNames && isUp(one) && one.network === own ? [id] : [],
  )
  return { zones, endpoints }
}

const isUp = (object: { readonly state?: string }): boolean => (object.state ?? 'up') === 'up'

/**
 * Looks a name up as hosts of a network do (design part 3.2): name zones linked to it, the longest
 * suffix first; addressed endpoints with private names; services; parties. Null where the name is
 * unknown.
 */
export function resolveName(model: Model, network: number, name: string): NameAnswer | null {
  const { estate } = model
  const asked = name.toLowerCase().replace(/\.$/, '')
  const resolver = resolverOf(model, network)
  for (const { id, suffix, records } of resolver.zones) {
    if (asked !== suffix && !asked.endsWith(`.${suffix}`)) continue
    const found = records.get(asked)
    if (found && found.length > 0)
      return { answeredBy: `nameZones/${id}`, addresses: found.map(addressOf) }
  }
  const covers = (names: readonly string[] | undefined): boolean =>
    (names ?? []).some((pattern) => wildcard(pattern.toLowerCase(), asked))
  for (const id of resolver.endpoints) {
    const endpoint = estate.endpoints.get(id)!
    if (!covers(estate.services.get(endpoint.service)?.names)) continue
    const addresses = (endpoint.style === 'addressed' ? (endpoint.interfaces ?? []) : []).flatMap(
      (one) => model.interfaces[model.index.interfaces.get(one) ?? -1]?.addresses ?? [],
    )
    if (addresses.length > 0) return { answeredBy: `endpoints/${id}`, addresses }
  }
  for (const section of ['services', 'parties'] as const) {
    for (const [id, object] of estate[section]) {
      if (!covers(object.names) || !isUp(object)) continue
      const addresses = firstOfEach(
        (object.ranges ?? [])
          .map(prefixOf)
          .map((p) => ({ family: prefixFamily(p), address: p.address })),
      )
      if (addresses.length > 0) return { answeredBy: `${section}/${id}`, addresses }
    }
  }
  return null
}

const firstOfEach = (ranges: readonly { family: Family; address: Address }[]): Address[] =>
  ([4, 6] as const).flatMap(
    (family) => ranges.find((range) => range.family === family)?.address ?? [],
  )

/** The name servers a network's hosts ask; none means the provider's own, which always answer. */
export function nameServersOf(model: Model, network: number): Address[] {
  const id = model.networks[network]?.id
  return (id === undefined ? [] : (model.estate.networks.get(id)?.nameServers ?? [])).flatMap(
    (text) => parseAddress(text) ?? [],
  )
}

/** The addresses of an answer a source can use: IPv4 where it has both. */
export function usable(
  answer: NameAnswer,
  has: { readonly 4: boolean; readonly 6: boolean },
): Address[] {
  const family = ([4, 6] as const).find(
    (f) => has[f] && answer.addresses.some((a) => familyOf(a) === f),
  )
  return family === undefined ? [] : answer.addresses.filter((a) => familyOf(a) === family)
}

/** Addresses as text. */
export const addressTexts = (addresses: readonly Address[]): string[] =>
  addresses.map(formatAddress)
