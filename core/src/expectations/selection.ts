import { derived, sameItems } from '../incremental/derived'
import type { Address } from '../address/address'
import { AddressMap } from '../address/address-map'
import { hostPrefix, isPrefixFault, parsePrefix, prefixOf } from '../address/prefix'
import {
  intersectRanges,
  rangeSet,
  rangeSetOf,
  rangesContain,
  subtractRanges,
  type RangeSet,
} from '../address/ranges'
import type { EstateObject } from '../format/estate'
import { splitRef } from '../format/ref'
import type { Model } from '../model/model'
import { groupHas, hasTag } from '../rules/applies-to'
import { frontendEnd } from '../walk/steps/frontend'
import type { End } from '../walk/state'

export type Expectation = EstateObject<'expectations'>
export type Selection = NonNullable<Expectation['from']>

/** Somewhere packets come from or go to, with the addresses meant there. */
export interface Place {
  readonly end: End
  readonly ref: string
  readonly addresses: RangeSet
  /** How it is reached from the internet, where that is another address. */
  readonly publicAddresses: RangeSet
  /** The network it is in, or −1. */
  readonly network: number
}

/** Hosts as numbers, and addresses outside or unoccupied. */
export interface Chosen {
  readonly interfaces: ReadonlySet<number>
  readonly frontends: ReadonlySet<number>
  /** Unoccupied addresses of subnets, by the subnet’s number. */
  readonly unoccupied: ReadonlyMap<number, RangeSet>
  readonly sites: ReadonlyMap<string, RangeSet>
  readonly internet: RangeSet
}

type Term = string | { readonly [key: string]: unknown }

const none = (): MutableChosen => ({
  interfaces: new Set(),
  frontends: new Set(),
  unoccupied: new Map(),
  sites: new Map(),
  internet: [],
})

interface MutableChosen {
  interfaces: Set<number>
  frontends: Set<number>
  unoccupied: Map<number, RangeSet>
  sites: Map<string, RangeSet>
  internet: RangeSet
}

function choose(model: Model, terms: readonly Term[]): Chosen {
  return terms.map((term) => chooseTerm(model, term)).reduce<Chosen>(unite, none())
}

function unite(a: Chosen, b: Chosen): Chosen {
  const merge = <K>(x: ReadonlyMap<K, RangeSet>, y: ReadonlyMap<K, RangeSet>): Map<K, RangeSet> => {
    const out = new Map(x)
    for (const [key, ranges] of y) out.set(key, rangeSet([...(out.get(key) ?? []), ...ranges]))
    return out
  }
  return {
    interfaces: new Set([...a.interfaces, ...b.interfaces]),
    frontends: new Set([...a.frontends, ...b.frontends]),
    unoccupied: merge(a.unoccupied, b.unoccupied),
    sites: merge(a.sites, b.sites),
    internet: rangeSet([...a.internet, ...b.internet]),
  }
}

/** What is in the first selection and not in the second. */
export function without(a: Chosen, b: Chosen): Chosen {
  const minus = <K>(x: ReadonlyMap<K, RangeSet>, y: ReadonlyMap<K, RangeSet>): Map<K, RangeSet> =>
    new Map([...x].map(([key, ranges]) => [key, subtractRanges(ranges, y.get(key) ?? [])]))
  return {
    interfaces: new Set([...a.interfaces].filter((one) => !b.interfaces.has(one))),
    frontends: new Set([...a.frontends].filter((one) => !b.frontends.has(one))),
    unoccupied: minus(a.unoccupied, b.unoccupied),
    sites: minus(a.sites, b.sites),
    internet: subtractRanges(a.internet, b.internet),
  }
}

function chooseTerm(model: Model, term: Term): Chosen {
  if (term === 'internet') return { ...none(), internet: internetRanges(model) }
  if (typeof term === 'string')
    return !isPrefixFault(parsePrefix(term))
      ? inRanges(model, rangeSetOf([prefixOf(term)]))
      : byRef(model, term)
  const { any, except, ...conditions } = term
  const parts: Chosen[] = Object.entries(conditions).map(([key, value]) =>
    byCondition(model, key, String(value)),
  )
  const all = any === undefined ? [] : [choose(model, any as readonly Term[])]
  const [first = none() as Chosen, ...others] = [...parts, ...all]
  const met = others.reduce(meet, first)
  return except === undefined
    ? met
    : without(met, choose(model, [except as Term].flat() as readonly Term[]))
}

/** Several conditions in one map must all hold. */
const meet = (a: Chosen, b: Chosen): Chosen => without(a, without(a, b))

function byCondition(model: Model, key: string, value: string): Chosen {
  switch (key) {
    case 'tag':
    case 'role':
    case 'network':
    case 'region':
      return hostsWhere(model, key, value)
    case 'site':
    case 'party':
    case 'service':
      return byRef(
        model,
        `${{ site: 'sites', party: 'parties', service: 'services' }[key]}/${value}`,
      )
    default:
      return none()
  }
}

/** What a condition asks of a host of a subnet; of an interface, or −1 for a frontend. */
type Test = (model: Model, subnet: number, one: number, value: string) => boolean

const HOST_TESTS = {
  tag: (model, subnet, one, value) => hasTag(model, { subnet, interface: one }, value),
  role: (model, subnet, _, value) => model.subnets[subnet]?.role === value,
  network: (model, subnet, _, value) =>
    model.networks[model.subnets[subnet]?.network ?? -1]?.id === value,
  any: () => true,
  region: (model, subnet, _, value) => model.subnets[subnet]?.region === value,
} satisfies Record<string, Test>

type HostCondition = keyof typeof HOST_TESTS

const interfacesOfSubnet = derived(
  (model: Model, subnet: number, key: HostCondition, value: string): readonly number[] =>
    (model.subnets[subnet]?.interfaces ?? []).filter(
      (one) =>
        model.index.interfaces.has(model.interfaces[one]!.id) &&
        HOST_TESTS[key](model, subnet, one, value),
    ),
  { same: sameItems },
)

const subnetCount = derived((model: Model): number => model.subnets.length, { same: Object.is })

const interfacesWhere = derived(
  (model: Model, key: HostCondition, value: string): readonly number[] =>
    Array.from({ length: subnetCount(model) }, (_, subnet) =>
      interfacesOfSubnet(model, subnet, key, value),
    ).flat(),
  { same: sameItems },
)

/** The hosts of all subnets that meet a condition. */
function hostsWhere(model: Model, key: HostCondition, value: string): Chosen {
  const frontends = model.frontends.filter(
    (one) =>
      one.subnet >= 0 &&
      model.index.frontends.has(one.id) &&
      HOST_TESTS[key](model, one.subnet, -1, value),
  )
  return {
    ...none(),
    interfaces: new Set(interfacesWhere(model, key, value)),
    frontends: new Set(frontends.map((one) => one.index)),
  }
}

function byRef(model: Model, ref: string): Chosen {
  const [section, id] = splitRef(ref)
  const ranges = (key: 'sites' | 'parties' | 'services'): RangeSet =>
    model.index[key].has(id)
      ? rangeSetOf((model.estate[key].get(id)?.ranges ?? []).map(prefixOf))
      : []
  switch (section) {
    case 'interfaces': {
      const index = model.index.interfaces.get(id)
      return {
        ...none(),
        interfaces: new Set(
          index === undefined || model.interfaces[index]!.subnet < 0 ? [] : [index],
        ),
      }
    }
    case 'frontends': {
      const index = model.index.frontends.get(id)
      return { ...none(), frontends: new Set(index === undefined ? [] : [index]) }
    }
    case 'networks':
      return byCondition(model, 'network', id)
    case 'regions':
      return byCondition(model, 'region', id)
    case 'subnets': {
      const subnet = model.subnets[model.index.subnets.get(id) ?? -1]
      return subnet ? wholeSubnet(model, subnet.index, rangeSetOf(subnet.allRanges)) : none()
    }
    case 'sites':
      return { ...none(), sites: new Map([[id, ranges('sites')]]) }
    case 'parties':
    case 'services':
      return { ...none(), internet: ranges(section) }
    case 'groups':
      return byGroup(model, id)
    default:
      return none()
  }
}

function byGroup(model: Model, id: string): Chosen {
  const group = model.estate.groups.get(id)
  if (!group || !model.index.groups.has(id)) return none()
  const { section } = group
  const ids = [...(model.estate[section as 'subnets'] ?? new Map<string, unknown>()).keys()].filter(
    (member) => groupHas(model, id, section, member),
  )
  return ids.map((member) => byRef(model, `${section}/${member}`)).reduce<Chosen>(unite, none())
}

/** Every address of a subnet in some ranges: its hosts, and the unoccupied addresses. */
function wholeSubnet(model: Model, index: number, ranges: RangeSet): Chosen {
  const subnet = model.subnets[index]!
  const owners = model.networks[subnet.network]?.owners ?? new AddressMap()
  const within = intersectRanges(rangeSetOf(subnet.allRanges), ranges)
  const taken = [...ownedIn(model, index)].filter((address) => owners.has(address))
  const hosts = subnet.interfaces.filter(
    (one) =>
      model.index.interfaces.has(model.interfaces[one]!.id) &&
      model.interfaces[one]!.addresses.some((a) => rangesContain(within, a)),
  )
  const frontends = model.frontends.filter(
    (one) =>
      model.index.frontends.has(one.id) &&
      one.subnet === index &&
      one.addresses.some((a) => rangesContain(within, a)),
  )
  return {
    ...none(),
    interfaces: new Set(hosts),
    frontends: new Set(frontends.map((one) => one.index)),
    unoccupied: new Map([[index, subtractRanges(within, rangeSetOf(taken.map(hostPrefix)))]]),
  }
}

function* ownedIn(model: Model, index: number): Iterable<Address> {
  for (const one of model.subnets[index]!.interfaces) yield* model.interfaces[one]!.addresses
  for (const one of model.frontends) if (one.subnet === index) yield* one.addresses
  for (const nat of model.nats)
    if (nat.subnet === index && nat.kind === 'private') yield* nat.addresses
}

/** Every address of some ranges, inside, at sites, and on the internet. */
function inRanges(model: Model, ranges: RangeSet): Chosen {
  let out: Chosen = none()
  for (const subnet of model.subnets) {
    if (!model.index.subnets.has(subnet.id)) continue
    if (intersectRanges(rangeSetOf(subnet.allRanges), ranges).length > 0)
      out = unite(out, wholeSubnet(model, subnet.index, ranges))
  }
  const sites = new Map<string, RangeSet>()
  for (const [id, site] of model.estate.sites) {
    const met = intersectRanges(rangeSetOf((site.ranges ?? []).map(prefixOf)), ranges)
    if (met.length > 0 && model.index.sites.has(id)) sites.set(id, met)
  }
  const owned = model.interfaces.filter(
    (one) =>
      one.publicAddress !== null && rangesContain(ranges, one.publicAddress) && one.subnet >= 0,
  )
  return unite(out, {
    ...none(),
    sites,
    interfaces: new Set(owned.map((one) => one.index)),
    internet: intersectRanges(internetRanges(model), ranges),
  })
}

/**
 * The internet as a place: every public address that is in no network, and that nothing in the
 * estate has.
 */
export const internetRanges = (model: Model): RangeSet =>
  subtractRanges(model.internetSpace, rangeSetOf([...model.publicOwners.keys()].map(hostPrefix)))

/** Everything there is: all hosts, sites and the internet. */
export function everything(model: Model): Chosen {
  const hosts = hostsWhere(model, 'any', '')
  const sites = new Map(
    [...model.index.sites.keys()].map((id) => [
      id,
      rangeSetOf((model.estate.sites.get(id)?.ranges ?? []).map(prefixOf)),
    ]),
  )
  return { ...hosts, unoccupied: new Map(), sites, internet: internetRanges(model) }
}

/**
 * The places that a selection names: existing interfaces and frontends, every address of a named
 * subnet or prefix, and outside.
 */
export const chosenBy = (
  model: Model,
  selection: Selection | undefined,
  except: Selection | undefined,
): Chosen => {
  const chosen = choose(model, [selection ?? []].flat() as readonly Term[])
  return except === undefined
    ? chosen
    : without(chosen, choose(model, [except].flat() as readonly Term[]))
}

/** The places that a selection stands for as a source or a destination. */
export function toPlaces(model: Model, chosen: Chosen): Place[] {
  const out: Place[] = []
  const own = (addresses: readonly Address[]): RangeSet => rangeSetOf(addresses.map(hostPrefix))
  for (const index of chosen.interfaces) {
    const one = model.interfaces[index]!
    out.push({
      end: { in: 'subnet', place: { subnet: one.subnet, interface: index }, ref: one.ref },
      ref: one.ref,
      addresses: own(one.addresses),
      publicAddresses: own(one.publicAddress === null ? [] : [one.publicAddress]),
      network: model.subnets[one.subnet]!.network,
    })
  }
  for (const index of chosen.frontends) {
    const one = model.frontends[index]!
    const reachable = (model.estate.frontends.get(one.id)?.publicAddresses ?? []).map((text) =>
      prefixOf(`${text}/${text.includes(':') ? 128 : 32}`),
    )
    out.push({
      end: frontendEnd(one),
      ref: one.ref,
      addresses: own(one.addresses),
      publicAddresses: rangeSetOf(reachable),
      network: one.network,
    })
  }
  for (const [index, ranges] of chosen.unoccupied) {
    const subnet = model.subnets[index]!
    if (ranges.length > 0)
      out.push({
        end: { in: 'subnet', place: { subnet: index, interface: -1 }, ref: subnet.ref },
        ref: subnet.ref,
        addresses: ranges,
        publicAddresses: [],
        network: subnet.network,
      })
  }
  for (const [id, ranges] of chosen.sites)
    if (ranges.length > 0)
      out.push({
        end: { in: 'outside', ref: `sites/${id}` },
        ref: `sites/${id}`,
        addresses: ranges,
        publicAddresses: [],
        network: -1,
      })
  if (chosen.internet.length > 0)
    out.push({
      end: { in: 'outside', ref: 'internet' },
      ref: 'internet',
      addresses: chosen.internet,
      publicAddresses: [],
      network: -1,
    })
  return out
}
