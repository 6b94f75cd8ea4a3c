import { familyOf, formatAddress, type Family } from '../address/address'
import { formatPrefix } from '../address/prefix'
import { longestMatch } from '../address/prefix-table'
import { prefixesOfRange, rangeSet, type Range, type RangeSet } from '../address/ranges'
import { hopMemo, hopsOf, type HopMemo, type HopTable } from '../hops/hops'
import type { Hop, HopRange } from '../hops/sweep'
import type { HostKind } from '../hops/kinds'
import type { Model, SubnetModel } from '../model/model'
import { destinationsOf, type ExitColumn } from './columns'
import { markOf, type Mark } from './marks'

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

/** The ways out of one subnet to each kind of destination, routes alone. */
export type ExitRow = { readonly subnet: string } & { readonly [C in ExitColumn]: readonly ExitWay[] }

export function exitsOf(model: Model, subnet: SubnetModel, memo: HopMemo = hopMemo()): ExitRow {
  const tables = hopsOf(model, subnet, memo)
  const ways = (column: ExitColumn): ExitWay[] => exitsTo(model, subnet, tables, column, destinationsOf(model, subnet, column))
  return {
    subnet: subnet.id,
    internet: ways('internet'),
    services: ways('services'),
    sites: ways('sites'),
    otherNetworks: ways('otherNetworks'),
    sameNetwork: ways('sameNetwork'),
  }
}

/** The ways out of a subnet to some destinations. */
export function exitsTo(model: Model, subnet: SubnetModel, tables: readonly HopTable[], column: ExitColumn, destinations: RangeSet): ExitWay[] {
  const one = tables.length === 1
  return merge(
    tables.flatMap((table) => {
      const hosts = one || table.kind.interfaces.length === 0 ? null : table.kind.interfaces.map((index) => model.interfaces[index]!.id)
      return ([4, 6] as const).flatMap((family) => describe(model, subnet, table.kind, hosts, meetHops(table[family], destinations), column))
    }),
  )
}

interface Part {
  readonly hop: Hop
  readonly ranges: readonly Range[]
}

/** The parts of a subnet’s ranges that meet some destinations, by how packets fare there. */
function meetHops(hops: readonly HopRange[], destinations: RangeSet): Part[] {
  const found = new Map<string, { hop: Hop; ranges: Range[] }>()
  const keys = new Map<Hop, string>()
  let at = 0
  for (const wanted of destinations) {
    if (hops.length === 0 || familyOf(hops[0]!.from) !== familyOf(wanted.from)) continue
    while (at < hops.length && hops[at]!.to < wanted.from) at++
    for (let k = at; k < hops.length && hops[k]!.from <= wanted.to; k++) {
      const { hop, from, to } = hops[k]!
      let key = keys.get(hop)
      if (key === undefined) keys.set(hop, (key = `${hop.ways.join(';')}|${hop.leavesBy}|${hop.seenAs.join()}|${JSON.stringify(hop.cause)}`))
      const range = { from: from > wanted.from ? from : wanted.from, to: to < wanted.to ? to : wanted.to }
      const known = found.get(key)
      if (known) known.ranges.push(range)
      else found.set(key, { hop, ranges: [range] })
    }
  }
  return [...found.values()].map(({ hop, ranges }) => ({ hop, ranges: rangeSet(ranges) }))
}

function describe(model: Model, subnet: SubnetModel, kind: HostKind, hosts: readonly string[] | null, parts: readonly Part[], column: ExitColumn): ExitWay[] {
  const widest = parts.reduce((best, part, index) => (spanOf(part) > spanOf(parts[best]!) ? index : best), 0)
  const from = kind.interfaces.length > 0 ? `interface:${model.interfaces[kind.interfaces[0]!]!.id}` : `subnet:${subnet.id}`
  return parts.map(({ hop, ranges }, index): ExitWay => {
    const [first = []] = hop.ways
    const lowest = ranges[0]!.from
    const home = column === 'internet' ? undefined : longestMatch(model.subnetSpace, lowest)[0]
    const rest = index === widest
    const to =
      column === 'internet' && rest && typeof lowest === 'number'
        ? 'internet'
        : home === undefined
          ? formatAddress(lowest)
          : `subnet:${model.subnets[home]!.id}`
    const kindOfWay = kindOf(hop)
    return {
      kind: kindOfWay,
      by: hop.cause ? null : (first[0] ?? null),
      way: first,
      branches: hop.ways.length - 1,
      leavesBy: hop.leavesBy,
      seenAs: hop.seenAs,
      cause: hop.cause,
      ranges: rest ? null : ranges.flatMap(prefixesOfRange).map(formatPrefix),
      family: familyOf(lowest),
      hosts,
      mark:
        column === 'internet' || column === 'sameNetwork'
          ? markOf(model, subnet, { kind: kindOfWay, leavesBy: hop.leavesBy, cause: hop.cause }, kind.interfaces.length > 0)
          : null,
      question: { from, to },
    }
  })
}

const spanOf = (part: Part): number => part.ranges.reduce((sum, range) => sum + Number(range.to) - Number(range.from) + 1, 0)

/** What a way is, by the strongest thing on it: an inspection, a translation, a service, a private line, nothing but a door. */
export function kindOf(hop: Pick<Hop, 'cause' | 'ways' | 'reaches'>): WayKind {
  if (hop.cause) return 'lost'
  const passed = hop.ways.flat()
  const has = (...sections: string[]): boolean => passed.some((ref) => sections.some((section) => ref.startsWith(`${section}/`)))
  if (has('firewalls')) return 'inspected'
  if (has('nats')) return 'translated'
  if (has('endpoints') || passed.includes('service-switch')) return 'service'
  if (passed.length === 0) return 'local'
  return has('peerings', 'transits', 'sites') || hop.reaches?.startsWith('sites/') ? 'private-line' : 'direct'
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
