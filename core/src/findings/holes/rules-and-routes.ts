import { rootOfLoss } from '../deciding'
import { byOwner, spaceTexts } from '../../addresses/named-space'
import { derived } from '../../incremental/derived'
import type { Family } from '../../address/address'
import { formatPrefix, prefixOf } from '../../address/prefix'
import { isPublic } from '../../address/public'
import { rangeSet, rangeSetOf, subtractRanges, type RangeSet } from '../../address/ranges'
import { destinationPrefixes } from '../../model/routes'
import type { HopTable, Part } from '../../hops/hops'
import type { Model, SubnetModel } from '../../model/model'
import { ruleBook } from '../../rules/rule-book'
import { finding, unique, type Finding } from '../finding'
import type { Root } from '../root'
import { firstShowing } from '../shown'
import {
  checkSubnets,
  FAMILIES,
  internetText,
  listText,
  nameOf,
  rangeTexts,
  type CheckContext,
} from '../survey'

/** Rules that name somewhere no route leads, and hosts that no rule lets out where routes lead. */
export const checkRulesAndRoutes = checkSubnets('rules and routes', (survey, subnet) =>
  subnet.up
    ? unique([
        ...survey.tablesOf(subnet).flatMap((table) => rulesWithoutRoute(survey, subnet, table)),
        ...routeWithoutRules(survey, subnet),
      ])
    : [],
)

/** A private destination that rules name. */
interface Place {
  /** As it is written. */
  readonly prefix: string
  readonly ranges: RangeSet
  /**
   * Whose it is: one owner’s, several’s, so that it is no particular destination, or nobody’s as
   * far as the estate knows.
   */
  readonly of: 'one' | 'several' | 'nobody'
}

/** The private destinations that a rule set lets packets go to by name of their ranges. */
const placesNamedBy = derived((model: Model, set: number): readonly Place[] => {
  const rules = model.estate.ruleSets.get(nameOf(ruleBook(model).set(set).ref))?.rules ?? []
  const prefixes = rules
    .filter((rule) => rule.direction === 'out' && rule.action !== 'deny')
    .flatMap((rule) =>
      (rule.peers ?? []).flatMap((peer) =>
        typeof peer === 'string'
          ? peer.includes('/')
            ? [prefixOf(peer)]
            : []
          : 'prefixList' in peer
            ? destinationPrefixes(model.estate, peer)
            : [],
      ),
    )
  const texts = new Set<string>()
  return prefixes.flatMap((prefix): Place[] => {
    const text = formatPrefix(prefix)
    if (texts.has(text) || prefix.length === 0 || isPublic(prefix.address)) return []
    texts.add(text)
    const owned = byOwner(model, rangeSetOf([prefix])).filter(({ owner }) => OWNED.test(owner))
    const ranges = rangeSet(owned.flatMap((one) => one.ranges))
    if (owned.length === 0) return [{ prefix: text, ranges: rangeSetOf([prefix]), of: 'nobody' }]
    const of = owned.length === 1 ? 'one' : 'several'
    return [{ prefix: text, ranges, of }]
  })
})

const OWNED = /^(networks|sites|plannedRanges)\//

const whole = new WeakMap<readonly Place[], RangeSet>()

/** All places of a rule set together. */
function spaceOf(places: readonly Place[]): RangeSet {
  let known = whole.get(places)
  if (!known) whole.set(places, (known = rangeSet(places.flatMap(({ ranges }) => ranges))))
  return known
}

/** Causes that say that no route leads there; others have findings of their own. */
const WITHOUT_ROUTE: ReadonlySet<string> = new Set([
  'no-route',
  'drop-route',
  'private-destination',
  'no-such-subnet',
  'site-has-no-route',
])

const lacksRoute = ({ outcome: { cause } }: Part): boolean =>
  cause !== null && WITHOUT_ROUTE.has(cause.code)

/** Destinations that rules of hosts name, and of which a part is lost for want of a route. */
function rulesWithoutRoute(survey: CheckContext, subnet: SubnetModel, table: HopTable): Finding[] {
  const { model } = survey
  const sets = new Set([
    ...table.kind.interfaces.flatMap((index) => model.interfaces[index]!.ruleSets),
    ...(table.kind.interfaces.length > 0 ? subnet.ruleSets : []),
  ])
  const partsTo = (ranges: RangeSet): Part[] =>
    FAMILIES.flatMap((family) => survey.meet(subnet, table, family, ranges))
  return [...sets].flatMap((set) => {
    const places = placesNamedBy(model, set)
    // Most rules name what routes lead to: then one look at all of it is enough.
    if (places.length === 0 || !partsTo(spaceOf(places)).some(lacksRoute)) return []
    return places.flatMap((place): Finding[] => {
      const wanted = subtractRanges(place.ranges, rangeSetOf(subnet.allRanges))
      if (wanted.length === 0) return []
      const parts = partsTo(wanted)
      const lost = parts.filter(lacksRoute)
      const isLost = place.of === 'several' ? lost.length === parts.length : lost.length > 0
      return lost.length > 0 && isLost
        ? withoutRoute(survey, { subnet, table, set: ruleBook(model).set(set).ref, place, lost })
        : []
    })
  })
}

interface Named {
  readonly subnet: SubnetModel
  readonly table: HopTable
  readonly set: string
  readonly place: Place
  readonly lost: readonly Part[]
}

function withoutRoute(survey: CheckContext, { subnet, table, set, place, lost }: Named): Finding[] {
  const { model } = survey
  const question = firstShowing(
    survey,
    lost.map((part) => ({ subnet, table, ranges: rangeSet(part.ranges) })),
    ({ cause }) => cause !== null && WITHOUT_ROUTE.has(cause.code),
  )
  // Other rules stop all of it: nothing is lost for want of a route.
  if (!question) return []
  const [first] = lost as [Part]
  const cause = first.outcome.cause!
  const ranges = rangeSet(lost.flatMap((part) => part.ranges))
  const isUnknown = place.of === 'nobody'
  const where = isUnknown
    ? `${place.prefix}, which is unknown: nobody in the estate has it`
    : listText(spaceTexts(model, ranges))
  const root: Root = isUnknown
    ? { kind: 'unowned-space', object: 'estate', part: 'private' }
    : rootOfLoss(cause, { model, subnet, hosts: table, dst: first.ranges[0]!.from })
  return [
    finding({
      code: 'hole-rules-without-route',
      severity: isUnknown ? 'note' : 'medium',
      anchor: subnet.ref,
      objects: [subnet.ref, ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []), set],
      sentence: `${nameOf(set)} lets ${subnet.id} reach ${where}, but no route leads there (${cause.code}).`,
      root,
      part: `${set} ${place.prefix}`,
      ranges: rangeTexts(ranges, 20),
      question,
    }),
  ]
}

/** What of a subnet's hosts has a way out to the internet in a family, and the rules for it. */
interface Leaving {
  readonly index: number
  readonly table: HopTable
  readonly family: Family
  readonly isLetOut: boolean
}

/**
 * Hosts with a way out to the internet whose rules let nothing out there, while those of other
 * hosts of the subnet do: one finding for all of them.
 */
function routeWithoutRules(survey: CheckContext, subnet: SubnetModel): Finding[] {
  const { model } = survey
  const leaving = survey.tablesOf(subnet).flatMap((table): Leaving[] => {
    const family = FAMILIES.find((one) =>
      survey.toInternet(subnet, table, one).some(({ outcome }) => outcome.cause === null),
    )
    if (family === undefined) return []
    return table.kind.interfaces
      .filter((index) => !model.firewallAt.has(index) && !model.interfaces[index]!.forwards)
      .map((index) => {
        const isLetOut = survey.letOutToInternet(index, family) !== null
        return { index, table, family, isLetOut }
      })
  })
  const held = leaving.filter(({ isLetOut }) => !isLetOut)
  const [first] = held
  if (first === undefined || held.length === leaving.length) return []
  const hosts = [...new Set(held.map(({ index }) => model.interfaces[index]!.ref))]
  const sets = [
    ...new Set(
      held.flatMap(({ index }) => [...model.interfaces[index]!.ruleSets, ...subnet.ruleSets]),
    ),
  ].map((set) => ruleBook(model).set(set).ref)
  return [
    finding({
      code: 'hole-route-without-rules',
      severity: 'medium',
      anchor: subnet.ref,
      objects: [...sets, subnet.ref, ...hosts],
      sentence: `${listText(hosts.map(nameOf))} in ${subnet.id} ${hosts.length === 1 ? 'has' : 'have'} a way out to the internet, but no rule lets anything of ${hosts.length === 1 ? 'it' : 'them'} out, as rules of other hosts there do.`,
      root: { kind: 'missing-rule', object: sets[0] ?? subnet.ref, part: 'out' },
      ranges: ['internet'],
      question: {
        from: `interface:${model.interfaces[first.index]!.id}`,
        to: internetText(model, first.family),
      },
    }),
  ]
}
