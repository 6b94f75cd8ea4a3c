import { familyOf, type Address, type Family } from '../address/address'
import { wholeSpace } from '../address/prefix-table'
import { firstFrom, firstPart, rangesContain, rangeSet, spanAround, type Range, type RangeSet } from '../address/ranges'
import { allThatMayCome, mayCome, type Wanted } from '../hops/behind'
import { hopAt } from '../hops/hops'
import { meetSpans } from '../hops/onward'
import { kept, reader } from '../kept'
import { derived, derivedAndCompared, sameItems, sameRanges } from '../model/derived'
import { homesIn, homesInNetworks, presentOf, type Home, type Survey } from './survey'

/** The address each kind of host of a subnet sends from, in the order of its kinds. */
export const sourcesIn = (survey: Survey, index: number, family: Family): readonly (Address | null)[] => {
  const find = (): readonly (Address | null)[] => survey.tablesOf(survey.model.subnets[index]!).map((table) => table.kind.sources[family])
  return reader() === null ? find() : derivedAndCompared(survey.model, `sources in ${index} ${family}`, find, sameItems)
}

/** The subnets in some ranges that lie in networks of which some host may reach an address. */
export function* homesThatReach(survey: Survey, own: Address, ranges: readonly Range[]): Generator<Home> {
  const { model } = survey
  if (reader() === null) {
    const reaching = networksThatReach(survey, own)
    // Few networks reach a host, or few places are asked about: whichever are fewer are looked through.
    if (reaching.size <= MOST_GATHERED) {
      for (const home of kept(homesOfReaching, reaching, () => homesInNetworks(model, [...reaching]))) if (firstPart(ranges, home) !== null) yield home
    } else for (const home of homesIn(survey, ranges)) if (reaching.has(home.network)) yield home
    return
  }
  const networks = new Map<number, boolean>()
  for (const home of homesIn(survey, ranges)) {
    let reaches = networks.get(home.network)
    if (reaches === undefined) networks.set(home.network, (reaches = someReach(survey, home.network, own)))
    if (reaches) yield home
  }
}
const MOST_GATHERED = 64
const homesOfReaching = new WeakMap<ReadonlySet<number>, readonly Home[]>()

/** The networks of which some host may reach an address, with all around it that the same reach. */
interface Reaching extends Range {
  readonly networks: ReadonlySet<number>
}

/** The networks of which some host may reach an address: hosts of a subnet are nearly always reached by the same. */
function networksThatReach(survey: Survey, own: Address): ReadonlySet<number> {
  const { model } = survey
  const family = familyOf(own)
  const list = derived(model, `networks that reach ${family}`, (): Reaching[] => [])
  const at = firstFrom(list, own)
  const known = list[at]
  if (known && known.from <= own) return known.networks
  const sideOf = sidesOf(own)
  let around = wholeSpace(family)
  const networks = new Set<number>()
  for (const network of presentOf(model, 'networks')) {
    const side = sideInReached(reachedFrom(survey, network, family), sideOf)
    around = meetSpans(around, side)
    if (side.inside) networks.add(network)
  }
  list.splice(at, 0, { ...around, networks })
  return networks
}

/** Whether some host of a network may reach an address with packets as they are. */
function someReach(survey: Survey, network: number, own: Address): boolean {
  const ask = (): boolean => sideInReached(reachedFrom(survey, network, familyOf(own)), sidesOf(own)).inside
  return reader() === null ? ask() : derivedAndCompared(survey.model, `${network} reaches ${typeof own} ${own}`, ask, Object.is)
}

/** The kinds of host of a subnet that reach an address with packets as they are; most changes there alter nothing of it. */
export function reachingFrom(survey: Survey, index: number, own: Address): readonly number[] {
  const { model, memo } = survey
  const subnet = model.subnets[index]!
  const find = (): readonly number[] =>
    survey.tablesOf(subnet).flatMap((table, kind) => {
      if (table.kind.sources[familyOf(own)] === null) return []
      const there = hopAt(model, subnet, table, own, memo)
      // What is translated on the way there has its answer come back to the translator.
      return there !== null && AS_IT_IS.has(there) ? [kind] : []
    })
  return reader() === null ? find() : derivedAndCompared(model, `who of ${index} reaches ${typeof own} ${own}`, find, sameItems)
}

/** Delivered, and not translated on the way. */
const AS_IT_IS = {
  name: 'delivered as it is',
  has: ({ cause, seenAs }) => cause === null && seenAs.length === 0,
  asks: ({ seenAs }) => (seenAs.length === 0 ? 'as it is' : 'translated'),
} satisfies Wanted

/**
 * Every address that packets from some host of a network may reach as they are: where it is not, nobody there need be asked.
 * What lies behind a transit is the same set for all who come to it alike, and is not copied for each network.
 */
interface Reached {
  readonly near: RangeSet
  readonly behind: readonly BehindTransit[]
}

/** The spans that lead to a transit, and of the whole space what may be reached behind it. */
interface BehindTransit {
  readonly spans: RangeSet
  readonly all: RangeSet
}

const reachedFrom = (survey: Survey, network: number, family: Family): Reached =>
  derivedAndCompared(
    survey.model,
    `reached from network ${network} ${family}`,
    () => {
      const { model, memo } = survey
      const asked = new Set<unknown>()
      const near: Range[] = []
      // Tables of a network lead to the same transits with other holes each: their spans are taken together.
      const byTransit = new Map<RangeSet, Range[]>()
      for (const index of model.networks[network]!.subnets) {
        for (const table of survey.tablesOf(model.subnets[index]!)) {
          const ranges = table.shared[family]
          if (asked.has(ranges)) continue
          asked.add(ranges)
          for (const { from, to, hop, behind } of ranges) {
            if (behind === null) {
              if (AS_IT_IS.has(hop)) near.push({ from, to })
            } else if (reader() !== null) for (const part of mayCome(model, memo, { from, to, behind }, AS_IT_IS)) near.push(part)
            else {
              const all = allThatMayCome(model, memo, behind, family, AS_IT_IS)
              const spans = byTransit.get(all)
              if (spans) spans.push({ from, to })
              else byTransit.set(all, [{ from, to }])
            }
          }
        }
      }
      return { near: rangeSet(near), behind: [...byTransit].map(([all, spans]) => ({ spans: rangeSet(spans), all })) }
    },
    // Nobody compares what lies behind transits: who follows what he reads has it among what is near.
    (a, b) => sameRanges(a.near, b.near),
  )

/** On which side of a set an address is, and the widest span around it that is on the same. */
interface Side extends Range {
  readonly inside: boolean
}

/** The sides of one address; several networks ask for the same sets. */
function sidesOf(address: Address): (set: RangeSet) => Side {
  const known = new Map<RangeSet, Side>()
  return (set) => {
    let side = known.get(set)
    if (!side) known.set(set, (side = { ...spanAround(set, address), inside: rangesContain(set, address) }))
    return side
  }
}

function sideInReached({ near, behind }: Reached, sideOf: (set: RangeSet) => Side): Side {
  let side = sideOf(near)
  for (const { spans, all } of side.inside ? [] : behind) {
    const there = sideOf(all)
    // One reason is enough, for it as against it.
    const here = there.inside ? sideOf(spans) : there
    if (here.inside) return { ...meetSpans(here, there), inside: true }
    side = { ...meetSpans(side, here), inside: false }
  }
  return side
}
