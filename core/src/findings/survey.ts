import { derived } from '../incremental/derived'
import {
  compareAddresses,
  familyOf,
  formatAddress,
  type Address,
  type Family,
} from '../address/address'

import { formatPrefix } from '../address/prefix'
import {
  sameRanges,
  firstFrom,
  partsWithin,
  prefixesOfRange,
  rangeOf,
  rangesContain,
  rangeSet,
  rangeSetOf,
  type Range,
  type RangeSet,
} from '../address/ranges'

import { destinationsOf } from '../exits/columns'
import type { Wanted } from '../hops/behind'
import { askedFrom } from '../hops/kinds'
import { outcomesWithin } from '../hops/meet'
import { hopsOf, type HopMemo, type HopTable, type Part } from '../hops/hops'
import { cached } from '../incremental/cells'
import type { GatewayModel, Model, SubnetModel } from '../model/model'
import { proveExpectation, type ExpectationResult } from '../expectations/expectations'
import { protocolName, type Packet } from '../packet/packet'
import type { Question } from '../trace/question'
import { allPackets, packetOf, type PacketBox } from '../packet/packet-set'
import { passing } from '../rules/passing'
import { lowestInternetAddress } from '../walk/public-address'
import type { End } from '../walk/state'
import type { Finding } from './finding'
import { presentOf } from '../model/present'

/** What the checks look at: the estate, and the ways out of its subnets, each found once. */
export interface CheckContext {
  readonly model: Model
  readonly memo: HopMemo
  readonly expectation: (id: string) => ExpectationResult
  /** The numbers of the subnets that are there, in the order of the estate. */
  readonly present: () => readonly number[]
  readonly tablesOf: (subnet: SubnetModel) => readonly HopTable[]
  /**
   * A packet that the rules of an interface, and of its subnet, let out to the internet; null where
   * they let none.
   */
  readonly letOutToInternet: (index: number, family: Family) => Packet | null
  /** Whether these rules let some packet out to some destinations. */
  readonly rulesAllow: (index: number, destinations: RangeSet) => boolean
  /** The parts of a kind of host’s ways that meet some destinations. */
  readonly meet: (
    subnet: SubnetModel,
    table: HopTable,
    family: Family,
    destinations: RangeSet,
    wanted?: Wanted,
  ) => readonly Part[]
  readonly toInternet: (subnet: SubnetModel, table: HopTable, family: Family) => readonly Part[]
}

/** A subject of a check: the number of an object in its section, or an id. */
export type Subject = string | number

/** One check: what it looks at one by one, and what it finds there. */
export interface Check {
  /** The step of an analysis in which it is made, as progress is told. */
  readonly step: string
  readonly subjects: (survey: CheckContext) => readonly Subject[]
  readonly find: (survey: CheckContext, subject: never) => readonly Finding[]
  /**
   * Whether the ranges of findings with one fingerprint are put together; else those of the first
   * stand.
   */
  readonly joinsRanges: boolean
}

interface CheckOptions {
  readonly joinsRanges?: boolean
}

/** A check of some subjects, one by one. */
export const check = <S extends Subject>(
  step: string,
  subjects: (survey: CheckContext) => readonly S[],
  find: (survey: CheckContext, subject: S) => readonly Finding[],
  { joinsRanges = false }: CheckOptions = {},
): Check => ({ step, subjects, find, joinsRanges })

/** A check of every subnet that is there. */
export const checkSubnets = (
  step: string,
  find: (survey: CheckContext, subnet: SubnetModel) => readonly Finding[],
  options?: CheckOptions,
): Check =>
  check(
    step,
    (survey) => survey.present(),
    (survey, index) => find(survey, survey.model.subnets[index]!),
    options,
  )

/** A check of the estate as a whole. */
export const checkWhole = (
  step: string,
  find: (survey: CheckContext) => readonly Finding[],
): Check => check(step, () => ['estate'], find)

/** The context of checks on a model: shared values are computed once. */
export function checkContext(model: Model, memo: HopMemo): CheckContext {
  const tables = new Map<number, readonly HopTable[]>()
  const passed = new Map<number, readonly PacketBox[]>()
  const met = {
    4: new WeakMap<HopTable, readonly Part[]>(),
    6: new WeakMap<HopTable, readonly Part[]>(),
  }
  const expectations = new Map<string, ExpectationResult>()
  /** Every packet that the rules on the way out of a host let pass. */
  const letOut = (index: number): readonly PacketBox[] =>
    cached(passed, index, () => {
      const { addresses, subnet } = model.interfaces[index]!
      const own = addresses.map((src): PacketBox => ({
        ...allPackets(familyOf(src)),
        src: { from: src, to: src },
      }))
      return passing(
        model,
        { direction: 'out', place: { subnet, interface: index }, crosses: true },
        own,
      )
    })
  return {
    model,
    memo,
    expectation: (id) =>
      cached(expectations, id, () =>
        proveExpectation(model, id, model.estate.expectations.get(id)!, memo),
      ),
    present: () => presentOf(model, 'subnets'),
    // The subnet is read where the value is made, so that the value is found again once it changes.
    tablesOf: ({ index }) =>
      cached(tables, index, () => hopsOf(model, model.subnets[index]!, memo)),
    letOutToInternet: (index, family) => {
      const boxes = letOut(index).filter(({ dst }) => familyOf(dst.from) === family)
      const lowest = lowestInternetAddress(model, family)
      const usual = boxes.find(({ dst }) => dst.from <= lowest && lowest <= dst.to)
      if (usual) return packetOf({ ...usual, dst: { from: lowest, to: lowest } })
      const [first] = boxes.flatMap((box) =>
        partsWithin(model.internetSpace, box.dst).map((dst) => ({ ...box, dst })),
      )
      return first ? packetOf(first) : null
    },
    rulesAllow: (index, destinations) =>
      letOut(index).some((box) => partsWithin(destinations, box.dst).length > 0),
    meet: (subnet, table, family, destinations, wanted) =>
      outcomesWithin(model, subnet, table, family, destinations, memo, { wanted }),
    toInternet: (subnet, table, family) =>
      cached(met[family], table, () =>
        outcomesWithin(
          model,
          subnet,
          table,
          family,
          destinationsOf(model, subnet, 'internet'),
          memo,
        ),
      ),
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

/** The first of such texts, and whether there are more. */
export const upTo = (texts: readonly string[], most: number): string[] =>
  texts.length <= most ? [...texts] : [...texts.slice(0, most), 'and more']

/** How a question names where a kind of host is. */
export const fromText = (model: Model, subnet: SubnetModel, table: HopTable): string =>
  askedFrom(model, subnet, table.kind)

/** A kind of host as an end of flows. */
export const endOf = (table: HopTable): End & { in: 'subnet' } => ({
  in: 'subnet',
  place: table.kind.place,
  ref: table.kind.ref,
})

/** The first thing that is found of some. */
export function firstOf<T, F>(some: readonly T[], find: (one: T) => F | null): F | null {
  for (const one of some) {
    const found = find(one)
    if (found !== null) return found
  }
  return null
}

/** The question that asks for one packet from outside. */
export const questionOf = ({ src, dst, protocol, srcPort, dstPort }: Packet): Question => ({
  from: formatAddress(src),
  to: formatAddress(dst),
  protocol: protocolName(protocol),
  port: dstPort,
  sourcePort: srcPort,
})

/** How a question names the internet in a family. */
export const internetText = (model: Model, family: Family): string =>
  family === 4 ? 'internet' : formatAddress(lowestInternetAddress(model, 6))

/**
 * An address of some ranges of one family that a question can ask for: the one that stands for the
 * internet where they hold it, else one that a host has.
 */
export function askedIn(survey: CheckContext, ranges: RangeSet): Address {
  const lowest = lowestInternetAddress(survey.model, familyOf(ranges[0]!.from))
  return rangesContain(ranges, lowest) ? lowest : hostIn(survey, ranges)
}

export const FAMILIES = [4, 6] as const

/** Whether any branch passes an element of some sections. */
export const passes = (ways: readonly (readonly string[])[], ...sections: string[]): boolean =>
  ways.some((way) => way.some((ref) => sections.some((section) => ref.startsWith(`${section}/`))))

const guards = new WeakMap<object, readonly string[]>()

/** Firewalls that every branch passes. */
export function firewallsOf(ways: readonly (readonly string[])[]): readonly string[] {
  let known = guards.get(ways)
  if (!known) {
    known = [...new Set(ways.flat())].filter(
      (ref) => ref.startsWith('firewalls/') && ways.every((way) => way.includes(ref)),
    )
    guards.set(ways, known)
  }
  return known
}

const translators = new WeakMap<object, readonly string[]>()

/** Translators that some branch passes. */
export const natsOn = (ways: readonly (readonly string[])[]): readonly string[] =>
  cached(translators, ways, () => [
    ...new Set(ways.flatMap((way) => way.filter((ref) => ref.startsWith('nats/')))),
  ])

/** The id of an object named `section/id`. */
export const nameOf = (ref: string): string => ref.slice(ref.indexOf('/') + 1)

/** `a`, `a and b`, `a, b and 3 more`. */
export function listText(items: readonly string[], most = 3): string {
  if (items.length <= 1) return items[0] ?? 'nothing'
  const shown = items.slice(0, most)
  const more = items.length - shown.length
  return more > 0
    ? `${shown.join(', ')} and ${more} more`
    : `${shown.slice(0, -1).join(', ')} and ${shown.at(-1)}`
}

/** A gateway by its name as `gateways/id`. */
export const gatewayOf = (model: Model, ref: string | null): GatewayModel | undefined =>
  ref?.startsWith('gateways/')
    ? model.gateways[model.index.gateways.get(nameOf(ref)) ?? -1]
    : undefined

export interface Home extends Range {
  readonly subnet: number
  readonly network: number
}

/** Caches a value that is derived from a context with the context's model. */
export const modelOf = ({ model }: CheckContext): Model => model

/**
 * A value for the subnets of each network that is there, derived network by network: a change of
 * one network leaves the others' values valid.
 */
export function byNetwork<T>(
  make: (subnets: readonly SubnetModel[], model: Model) => T,
  same: (a: T, b: T) => boolean,
): (model: Model) => readonly T[] {
  const inNetwork = derived(
    (model: Model, network: number): T =>
      make(
        model.networks[network]!.subnets.map((index) => model.subnets[index]!),
        model,
      ),
    { same },
  )
  return (model) => presentOf(model, 'networks').map((network) => inNetwork(model, network))
}

const sameHomes = (a: readonly Home[], b: readonly Home[]): boolean =>
  sameRanges(a, b) &&
  a.every((one, at) => one.subnet === b[at]!.subnet && one.network === b[at]!.network)

const homesByNetwork = byNetwork<readonly Home[]>(
  (subnets) =>
    subnets.flatMap(({ ranges, index, network }) =>
      ranges.map((range): Home => ({ ...rangeOf(range), subnet: index, network })),
    ),
  sameHomes,
)

const allHomes = derived((model: Model): readonly Home[] =>
  homesByNetwork(model)
    .flat()
    .sort((a, b) => compareAddresses(a.from, b.from)),
)

/** Where each range of subnets is, from the lowest. */
export const homes = ({ model }: CheckContext): readonly Home[] => allHomes(model)

const rangesByNetwork = byNetwork(
  (subnets): RangeSet => rangeSetOf(subnets.flatMap((one) => one.allRanges)),
  sameRanges,
)

/** Every address of subnets. */
export const subnetSpaceRanges = derived((model: Model): RangeSet =>
  rangeSet(rangesByNetwork(model).flat()),
)

/**
 * The subnets that begin in some ranges, found one after the other, so that a caller can stop at
 * the first.
 */
export function* homesIn(survey: CheckContext, ranges: readonly Range[]): Generator<Home> {
  const known = homes(survey)
  const seen = new Set<number>()
  for (const range of ranges) {
    for (
      let at = firstFrom(known, range.from);
      at < known.length && compareAddresses(known[at]!.from, range.to) <= 0;
      at++
    ) {
      const home = known[at]!
      if (!seen.has(home.subnet)) yield home
      seen.add(home.subnet)
    }
  }
}

/** The numbers of those subnets. */
export function* subnetsIn(survey: CheckContext, ranges: readonly Range[]): Generator<number> {
  for (const { subnet } of homesIn(survey, ranges)) yield subnet
}

/** So many subnets are looked into for a host, in so many ranges. */
const MOST_HOMES = 32
const MOST_RANGES = 64

/**
 * An address in some ranges that a host has, who can be asked for; else the lowest of them that a
 * host could have.
 */
export function hostIn(survey: CheckContext, ranges: RangeSet): Address {
  const { model } = survey
  let looked = 0
  for (const home of homesIn(survey, ranges.slice(0, MOST_RANGES))) {
    for (const index of model.subnets[home.subnet]!.interfaces) {
      const address = model.interfaces[index]!.addresses.find((one) => rangesContain(ranges, one))
      if (address !== undefined) return address
    }
    if (++looked === MOST_HOMES) break
  }
  return lowestHost(ranges[0]!)
}

/** The lowest address of a range that a host could have. */
const lowestHost = ({ from, to }: Range): Address =>
  typeof from === 'number' && Number(to) - from > 8 ? from + 4 : from

/** A door in words, for sentences. */
export const doorName = (ref: string): string =>
  ref === 'internet' ? 'the built-in door' : nameOf(ref)
