import { compareAddresses, formatAddress, type Family } from '../address/address'
import { formatPrefix, hostPrefix, lastAddress, prefixOf } from '../address/prefix'
import { longestMatch } from '../address/prefix-table'
import { prefixesOfRange, rangeSetOf, subtractRanges, type RangeSet } from '../address/ranges'
import type { Model, SubnetModel } from '../model/model'
import { hasTagKey } from '../rules/rule-book'
import { findEnd } from '../trace/ends'
import { isRefusal } from '../trace/question'
import { markOf, type Mark } from './marks'
import { sweep, type Origin, type Way } from './sweep'

/** The kinds of way a packet can go, after which cells are toned and lettered. */
export type WayKind = 'translated' | 'inspected' | 'direct' | 'private-line' | 'service' | 'local' | 'lost'

/** One way out of a subnet to one kind of destination. */
export interface ExitWay {
  readonly kind: WayKind
  /** The first element of the way, `section/id`; null for local delivery and lost packets. */
  readonly by: string | null
  readonly way: readonly string[]
  /** How many further branches of equal cost there are. */
  readonly branches: number
  readonly leavesBy: string | null
  readonly seenAs: readonly string[]
  readonly cause: { readonly code: string; readonly object: string; readonly inner?: { readonly code: string; readonly object: string } } | null
  /** The destinations, as prefixes; for the largest way of a family null, meaning all the rest. */
  readonly ranges: readonly string[] | null
  readonly family: Family
  /** The hosts this is true of: null for all of the subnet's, else ids of interfaces. */
  readonly hosts: readonly string[] | null
  readonly mark: Mark | null
  /** A question that shows it. */
  readonly question: { readonly from: string; readonly to: string }
}

export interface ExitRow {
  readonly subnet: string
  readonly internet: readonly ExitWay[]
  readonly sameNetwork: readonly ExitWay[]
}

/** The ways out of one subnet, to the internet and within its network, routes alone. */
export function exitsOf(model: Model, subnet: SubnetModel): ExitRow {
  const internet = internetDestinations(model)
  const inside = insideDestinations(model, subnet)
  const kinds = hostKinds(model, subnet)
  const ways = (destinations: RangeSet, column: 'internet' | 'inside'): ExitWay[] =>
    merge(kinds.flatMap((kind) => kind.origins.flatMap((origin) => describe(model, subnet, sweep(model, origin, destinations), origin, kind, column))))
  return { subnet: subnet.id, internet: ways(internet, 'internet'), sameNetwork: ways(inside, 'inside') }
}

const internetCache = new WeakMap<Model, RangeSet>()

/** What counts as the internet here: public, in no network, site or service, and nobody's of the estate. */
function internetDestinations(model: Model): RangeSet {
  let known = internetCache.get(model)
  if (!known) {
    const named = [...model.estate.sites.values(), ...model.estate.services.values()].flatMap((o) => (o.ranges ?? []).map(prefixOf))
    const own = [...model.publicOwners.keys(), ...model.inventory].map(hostPrefix)
    known = subtractRanges(model.internetSpace, rangeSetOf([...named, ...own]))
    internetCache.set(model, known)
  }
  return known
}

function insideDestinations(model: Model, subnet: SubnetModel): RangeSet {
  const others = model.networks[subnet.network]!.subnets.filter((index) => index !== subnet.index)
  return rangeSetOf(others.flatMap((index) => model.subnets[index]!.allRanges))
}

/** Hosts of a subnet that routing cannot tell apart, with one source address for each family. */
interface HostKind {
  readonly from: string
  readonly interfaces: readonly string[] | null
  readonly origins: readonly Origin[]
}

/**
 * Groups the hosts of a subnet by what route choice and translators ask of them: whether they have
 * a public address of their own, which tags routes are limited to they carry, and whether they sit
 * in a named range. A subnet without hosts is asked for an unoccupied address.
 */
function hostKinds(model: Model, subnet: SubnetModel): HostKind[] {
  const groups = new Map<string, number[]>()
  const tags = limitingTags(model, subnet)
  for (const index of subnet.interfaces) {
    const one = model.interfaces[index]!
    if (!one.up || one.addresses.length === 0) continue
    const carried = tags.filter((key) => hasTagKey(model, { subnet: subnet.index, interface: index }, key))
    const primary = one.addresses.every((a) => subnet.ranges.some((r) => compareAddresses(r.address, a) <= 0 && compareAddresses(a, lastAddress(r)) <= 0))
    const key = JSON.stringify([one.publicAddress !== null, carried, primary, one.addresses.map((a) => typeof a).sort()])
    groups.set(key, [...(groups.get(key) ?? []), index])
  }
  if (groups.size === 0) {
    const end = findEnd(model, { kind: 'subnet', id: subnet.id, address: null }, 'from', -1)
    if (isRefusal(end) || end.end?.in !== 'subnet') return []
    const { end: place } = end
    return [
      {
        from: `subnet:${subnet.id}`,
        interfaces: null,
        origins: [end.addresses[4], end.addresses[6]].flatMap((source) => (source === null ? [] : [{ end: place as Origin['end'], source }])),
      },
    ]
  }
  const one = groups.size === 1
  return [...groups.values()].map((indices): HostKind => {
    const first = model.interfaces[indices[0]!]!
    const end = { in: 'subnet', place: { subnet: subnet.index, interface: first.index }, ref: first.ref } as const
    const sources = [first.addresses.find((a) => typeof a === 'number'), first.addresses.find((a) => typeof a === 'bigint')]
    return {
      from: `interface:${first.id}`,
      interfaces: one ? null : indices.map((i) => model.interfaces[i]!.id),
      origins: sources.flatMap((source) => (source === undefined ? [] : [{ end, source }])),
    }
  })
}

/** Tags that a route of a priority-routed network is limited to. */
function limitingTags(model: Model, subnet: SubnetModel): string[] {
  if (model.networks[subnet.network]!.behaviour !== 'priority-routed' || subnet.table < 0) return []
  const source = model.estate.routeTables.get(model.tables[subnet.table]!.id)
  return [...new Set((source?.routes ?? []).flatMap((route) => route.onlyTags ?? []))]
}

function describe(model: Model, subnet: SubnetModel, ways: readonly Way[], origin: Origin, kind: HostKind, column: 'internet' | 'inside'): ExitWay[] {
  const family: Family = typeof origin.source === 'number' ? 4 : 6
  const widest = ways.reduce((best, way, index) => (spanOf(way) > spanOf(ways[best]!) ? index : best), 0)
  return ways.map((way, index): ExitWay => {
    const [first = []] = way.ways
    const rest = index === widest
    const lowest = way.ranges[0]!.from
    const home = column === 'inside' ? longestMatch(model.subnetSpace, lowest)[0] : undefined
    const to = column === 'internet' && rest && family === 4 ? 'internet' : home === undefined ? formatAddress(lowest) : `subnet:${model.subnets[home]!.id}`
    const kindOfWay = kindOf(way)
    return {
      kind: kindOfWay,
      by: way.cause ? null : (first[0] ?? null),
      way: first,
      branches: way.ways.length - 1,
      leavesBy: way.leavesBy,
      seenAs: way.seenAs,
      cause: way.cause ? { code: way.cause.code, object: way.cause.object, ...(way.cause.inner ? { inner: way.cause.inner } : {}) } : null,
      ranges: rest ? null : way.ranges.flatMap(prefixesOfRange).map(formatPrefix),
      family,
      hosts: kind.interfaces,
      mark: markOf(model, subnet, { kind: kindOfWay, leavesBy: way.leavesBy, cause: way.cause }, origin.end.place.interface >= 0),
      question: { from: kind.from, to },
    }
  })
}

const spanOf = (way: Way): number => way.ranges.reduce((sum, range) => sum + Number(range.to) - Number(range.from) + 1, 0)

/** What a way is, by the strongest thing on it: an inspection, a translation, a service, a private line, nothing but a door. */
function kindOf(way: Way): WayKind {
  if (way.cause) return 'lost'
  const passed = way.ways.flat()
  const has = (...sections: string[]): boolean => passed.some((ref) => sections.some((section) => ref.startsWith(`${section}/`)))
  if (has('firewalls')) return 'inspected'
  if (has('nats')) return 'translated'
  if (has('endpoints') || passed.includes('service-switch')) return 'service'
  if (passed.length === 0) return 'local'
  return has('peerings', 'transits', 'sites') ? 'private-line' : 'direct'
}

/** One entry where several kinds of host share a way in all but the address they are seen as. */
function merge(ways: readonly ExitWay[]): ExitWay[] {
  const out = new Map<string, ExitWay>()
  for (const way of ways) {
    const key = JSON.stringify([way.kind, way.way, way.branches, way.leavesBy, way.seenAs, way.cause, way.ranges, way.family])
    const known = out.get(key)
    out.set(key, known ? { ...known, hosts: known.hosts && way.hosts ? [...known.hosts, ...way.hosts] : null } : way)
  }
  return [...out.values()]
}
