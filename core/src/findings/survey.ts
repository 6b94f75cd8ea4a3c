import { familyOf, formatAddress, type Family } from '../address/address'
import { formatPrefix } from '../address/prefix'
import { partsWithin, prefixesOfRange, rangeSet, type Range, type RangeSet } from '../address/ranges'
import { destinationsOf } from '../exits/columns'
import { meetHops } from '../exits/exits'
import type { Wanted } from '../hops/behind'
import { hopsOf, type HopMemo, type HopTable, type Part } from '../hops/hops'
import type { Model, SubnetModel } from '../model/model'
import type { ExpectationResult } from '../expectations/expectations'
import { allPackets, type PacketBox } from '../packet/packet-set'
import { passing } from '../rules/passing'
import { lowestInternetAddress } from '../walk/public-address'
import type { End } from '../walk/state'
import type { Finding } from './finding'

/** What the checks look at: the estate, and the ways out of its subnets, each found once. */
export interface Survey {
  readonly model: Model
  readonly memo: HopMemo
  readonly expectations: readonly ExpectationResult[]
  /** The subnets that are there, in the order of the estate. */
  readonly subnets: readonly SubnetModel[]
  readonly tablesOf: (subnet: SubnetModel) => readonly HopTable[]
  /** Whether the rules of an interface, and of its subnet, let some packet out to the internet. */
  readonly rulesAllowInternet: (index: number, family: Family) => boolean
  /** Whether these rules let some packet out to some destinations. */
  readonly rulesAllow: (index: number, destinations: RangeSet) => boolean
  /** The parts of a kind of host’s ways that meet some destinations. */
  readonly meet: (subnet: SubnetModel, table: HopTable, family: Family, destinations: RangeSet, wanted?: Wanted) => readonly Part[]
  readonly toInternet: (subnet: SubnetModel, table: HopTable, family: Family) => readonly Part[]
}

/** One check: everything it finds in an estate. */
export type Check = (survey: Survey) => Finding[]

export function surveyOf(model: Model, memo: HopMemo, expectations: readonly ExpectationResult[]): Survey {
  const tables = new Map<number, readonly HopTable[]>()
  const passed = new Map<number, readonly PacketBox[]>()
  const met = new Map<HopTable, Map<Family, readonly Part[]>>()
  const once = <K, T>(map: Map<K, T>, key: K, make: () => T): T => {
    const known = map.get(key)
    if (known !== undefined) return known
    const made = make()
    map.set(key, made)
    return made
  }
  /** Every packet that the rules on the way out of a host let pass. */
  const letOut = (index: number): readonly PacketBox[] =>
    once(passed, index, () => {
      const { addresses, subnet } = model.interfaces[index]!
      const own = addresses.map((src): PacketBox => ({ ...allPackets(familyOf(src)), src: { from: src, to: src } }))
      return passing(model, { direction: 'out', place: { subnet, interface: index }, crosses: true }, own)
    })
  return {
    model,
    memo,
    expectations,
    subnets: model.subnets.filter((subnet) => model.index.subnets.has(subnet.id)),
    tablesOf: (subnet) => once(tables, subnet.index, () => hopsOf(model, subnet, memo)),
    rulesAllowInternet: (index, family) =>
      letOut(index).some((box) => familyOf(box.dst.from) === family && partsWithin(model.internetSpace, box.dst).length > 0),
    rulesAllow: (index, destinations) => letOut(index).some((box) => partsWithin(destinations, box.dst).length > 0),
    meet: (subnet, table, family, destinations, wanted) => meetHops(model, subnet, table, family, destinations, memo, wanted),
    toInternet: (subnet, table, family) => {
      const byFamily = once(met, table, () => new Map<Family, readonly Part[]>())
      return once(byFamily, family, () => meetHops(model, subnet, table, family, destinationsOf(model, subnet, 'internet'), memo))
    },
  }
}

/** Ranges as the fewest prefixes, no more than a person would read. */
export function rangeTexts(ranges: readonly Range[], most = 50): string[] {
  const out: string[] = []
  for (const range of rangeSet(ranges)) {
    for (const prefix of prefixesOfRange(range)) {
      if (out.length >= most) return [...out, 'and more']
      out.push(formatPrefix(prefix))
    }
  }
  return out
}

/** How a question names where a kind of host is. */
export const fromText = (model: Model, subnet: SubnetModel, table: HopTable): string => {
  const [first] = table.kind.interfaces
  return first === undefined ? `subnet:${subnet.id}` : `interface:${model.interfaces[first]!.id}`
}

export const endOf = (table: HopTable): End & { in: 'subnet' } => ({ in: 'subnet', place: table.kind.place, ref: table.kind.ref })

export const internetText = (model: Model, family: Family): string => (family === 4 ? 'internet' : formatAddress(lowestInternetAddress(model, 6)))

export const FAMILIES = [4, 6] as const

export const passes = (ways: readonly (readonly string[])[], ...sections: string[]): boolean =>
  ways.some((way) => way.some((ref) => sections.some((section) => ref.startsWith(`${section}/`))))

const guards = new WeakMap<object, readonly string[]>()

/** Firewalls that every branch passes. */
export function firewallsOf(ways: readonly (readonly string[])[]): readonly string[] {
  let known = guards.get(ways)
  if (!known) {
    known = [...new Set(ways.flat())].filter((ref) => ref.startsWith('firewalls/') && ways.every((way) => way.includes(ref)))
    guards.set(ways, known)
  }
  return known
}

export const nameOf = (ref: string): string => ref.slice(ref.indexOf('/') + 1)

/** `a`, `a and b`, `a, b and 3 more`. */
export function listText(items: readonly string[], most = 3): string {
  if (items.length <= 1) return items[0] ?? 'nothing'
  const shown = items.slice(0, most)
  const more = items.length - shown.length
  return more > 0 ? `${shown.join(', ')} and ${more} more` : `${shown.slice(0, -1).join(', ')} and ${shown.at(-1)}`
}
