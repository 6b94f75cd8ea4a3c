import { rootOfGoingRound } from '../deciding'
import { spaceTexts } from '../../addresses/named-space'
import { derived, sameItems } from '../../incremental/derived'
import { lazy } from '../../incremental/cells'
import { compareAddresses, type Family } from '../../address/address'
import {
  sameRanges,
  rangeSet,
  rangeSetOf,
  subtractRanges,
  type Range,
  type RangeSet,
} from '../../address/ranges'
import { shadowedAt, type HopTable } from '../../hops/hops'
import type { Model, RouteModel, SubnetModel } from '../../model/model'
import { groupHas } from '../../rules/applies-to'
import { firewallAt } from '../../walk/next-hops/registry'
import { finding, unique, type Finding } from '../finding'
import { isDenied, questionShowing } from '../shown'
import { leadThrough } from '../../mend/recipes/steering'
import {
  modelOf,
  checkSubnets,
  FAMILIES,
  firewallsOf,
  listText,
  nameOf,
  passes,
  rangeTexts,
  type CheckContext,
} from '../survey'
import { presentOf } from '../../model/present'

/**
 * Destinations that a subnet, or the other members of its group, send through a firewall, and that
 * go round it.
 */
export const checkRoundFirewall = checkSubnets(
  'ways round firewalls',
  (survey, subnet) => {
    const { model } = survey
    if (model.firewalls.length === 0 || subnet.role === 'inspection' || !subnet.up) return []
    const out: Finding[] = []
    const homes = homesOf(model)
    const own = groupsOf(survey).filter(({ members }) => members.has(subnet.index))
    // The subnet itself and all of its groups, found once it is asked for: groups may be large.
    const spared = lazy(() =>
      rangeSet([...rangeSetOf(subnet.allRanges), ...own.flatMap((group) => group.space)]),
    )
    for (const table of survey.tablesOf(subnet)) {
      for (const family of FAMILIES) {
        for (const range of table[family]) {
          const { hop } = range
          if (hop.cause !== null || passes(hop.ways, 'firewalls')) continue
          const [winner] = hop.winners
          if (!winner || (winner.origin === 'table' && winner.target.kind !== 'peering')) continue
          const covered = shadowedAt(table, range).find(
            (route) =>
              route.origin === 'table' &&
              route.state === 'up' &&
              firewallOf(model, subnet.network, route) !== null,
          )
          if (!covered) continue
          const firewall = firewallOf(model, subnet.network, covered)!
          const ranges = subtractRanges(
            [range],
            rangeSet([...spared(), ...(homes.get(firewall) ?? [])]),
          )
          add(survey, out, subnet, table, firewall, ranges, { winner, covered })
        }
        for (const group of own)
          unlikeGroup(survey, out, subnet, table, group, spared, homes, family)
      }
    }
    return unique(out, true)
  },
  { joinsRanges: true },
)

/** The firewall that a route leads to by itself; null where it leads to none. */
const firewallOf = (model: Model, network: number, { target }: RouteModel): string | null =>
  firewallAt(model, network, target)?.ref ?? null

const sameRangesByName = (
  a: ReadonlyMap<string, RangeSet>,
  b: ReadonlyMap<string, RangeSet>,
): boolean =>
  sameItems(a.keys(), b.keys()) &&
  [...a].every(([name, ranges]) => sameRanges(ranges, b.get(name)!))

/** The ranges of the subnets each firewall itself stands in. */
const homesOf = derived(
  (model: Model): ReadonlyMap<string, RangeSet> =>
    new Map(
      model.firewalls.map(({ ref, source, interfaces }): [string, RangeSet] => {
        const inline =
          source.style === 'inline'
            ? Object.values(source.endpoints ?? {}).map(
                (one) => model.index.subnets.get(one.subnet) ?? -1,
              )
            : []
        const subnets = [
          ...inline,
          ...interfaces.map((one) => model.interfaces[one.interface]!.subnet),
        ].flatMap((index) => model.subnets[index] ?? [])
        return [ref, rangeSetOf(subnets.flatMap((subnet) => subnet.allRanges))]
      }),
    ),
  { same: sameRangesByName },
)

/** A group whose members count as one, and what they send through each firewall. */
interface Group {
  readonly id: string
  readonly members: ReadonlySet<number>
  /** The same network by network. */
  readonly byNetwork: readonly (readonly number[])[]
  readonly space: RangeSet
}

const groupsOf = derived((survey: CheckContext): readonly Group[] => makeGroups(survey), {
  same: (a, b) =>
    a.length === b.length &&
    a.every(
      (one, at) =>
        one.id === b[at]!.id &&
        sameItems(one.members, b[at]!.members) &&
        sameRanges(one.space, b[at]!.space),
    ),
  on: modelOf,
})

function makeGroups({ model }: CheckContext): Group[] {
  return [...model.estate.groups].flatMap(([id, { section }]): Group[] => {
    if (!model.index.groups.has(id) || (section !== 'subnets' && section !== 'networks')) return []
    const members = presentOf(model, 'networks').map((network) => membersIn(model, id, network))
    const byNetwork = members.flatMap(({ numbers }) => (numbers.length > 0 ? [numbers] : []))
    const numbers = new Set(byNetwork.flat())
    const space = rangeSet(members.flatMap((one) => one.space))
    return numbers.size < 2 ? [] : [{ id, members: numbers, byNetwork, space }]
  })
}

interface Members {
  readonly numbers: readonly number[]
  readonly space: RangeSet
}

/** The members of a group of subnets or networks in one network. */
const membersIn = derived(
  (model: Model, id: string, network: number): Members => {
    const subnets = model.networks[network]!.subnets.map((index) => model.subnets[index]!)
    const own =
      model.estate.groups.get(id)!.section === 'subnets'
        ? subnets.filter((one) => groupHas(model, id, 'subnets', one.id))
        : subnets.length > 0 && groupHas(model, id, 'networks', model.networks[network]!.id)
          ? subnets
          : []
    return {
      numbers: own.map((one) => one.index),
      space: rangeSetOf(own.flatMap((one) => one.allRanges)),
    }
  },
  { same: (a, b) => sameItems(a.numbers, b.numbers) && sameRanges(a.space, b.space) },
)

/** The destinations that some members of a group send through each firewall. */
const guardedBy = derived(
  (survey: CheckContext, group: string, family: Family): ReadonlyMap<string, RangeSet> => {
    const found = new Map<string, Range[]>()
    for (const members of groupsOf(survey).find(({ id }) => id === group)?.byNetwork ?? []) {
      for (const [firewall, ranges] of guardedOf(survey, members, family)) {
        const list = found.get(firewall)
        if (list) for (const range of ranges) list.push(range)
        else found.set(firewall, [...ranges])
      }
    }
    return new Map([...found].map(([firewall, ranges]) => [firewall, rangeSet(ranges)]))
  },
  { same: sameRangesByName, on: modelOf },
)

const guardedOf = (
  survey: CheckContext,
  members: readonly number[],
  family: Family,
): ReadonlyMap<string, RangeSet> => guardedOfMembers(survey, members.join(), family)

/** The same by the numbers of subnets in a text, separated by commas. */
const guardedOfMembers = derived(
  (survey: CheckContext, members: string, family: Family): ReadonlyMap<string, RangeSet> => {
    const found = new Map<string, Range[]>()
    const asked = new Set<unknown>()
    for (const member of members.split(',').map(Number)) {
      for (const table of survey.tablesOf(survey.model.subnets[member]!)) {
        // Members that share their routing share its ranges.
        if (asked.has(table[family])) continue
        asked.add(table[family])
        for (const { hop, ...range } of table[family]) {
          if (hop.cause !== null) continue
          for (const firewall of firewallsOf(hop.ways)) {
            const list = found.get(firewall)
            if (list) list.push(range)
            else found.set(firewall, [range])
          }
        }
      }
    }
    return new Map([...found].map(([firewall, ranges]) => [firewall, rangeSet(ranges)]))
  },
  { same: sameRangesByName, on: modelOf },
)

/** What other members of the group send through a firewall, and this subnet does not. */
function unlikeGroup(
  survey: CheckContext,
  out: Finding[],
  subnet: SubnetModel,
  table: HopTable,
  group: Group,
  spared: () => RangeSet,
  homes: ReadonlyMap<string, RangeSet>,
  family: Family,
): void {
  const missed = [...guardedBy(survey, group.id, family)].flatMap(([firewall, guarded]) => {
    const wanted = subtractRanges(guarded, rangeSet([...spared(), ...(homes.get(firewall) ?? [])]))
    const parts = (wanted.length === 0 ? [] : survey.meet(subnet, table, family, wanted)).filter(
      ({ outcome }) => outcome.cause === null && !passes(outcome.ways, 'firewalls'),
    )
    const ranges = rangeSet(parts.flatMap((part) => part.ranges))
    return ranges.length === 0 ? [] : [{ firewall, ranges }]
  })
  // What several firewalls see of others is told of the one that sees most.
  const round: Range[] = []
  for (const { firewall, ranges } of missed.sort((a, b) => byMost(a.ranges, b.ranges))) {
    const fresh = subtractRanges(ranges, rangeSet(round))
    if (fresh.length > 0) add(survey, out, subnet, table, firewall, fresh, null)
    round.push(...fresh)
  }
}

const sizeOf = (ranges: RangeSet): number =>
  ranges.reduce((sum, { from, to }) => sum + Number(to) - Number(from) + 1, 0)

/** The order of sets by how many addresses they have, the largest first; then by the lowest. */
const byMost = (a: RangeSet, b: RangeSet): number =>
  sizeOf(b) - sizeOf(a) || compareAddresses(a[0]!.from, b[0]!.from)

/** The route that wins, and the one to the firewall that it beats. */
interface Beaten {
  readonly winner: RouteModel
  readonly covered: RouteModel
}

function add(
  survey: CheckContext,
  out: Finding[],
  subnet: SubnetModel,
  table: HopTable,
  firewall: string,
  ranges: RangeSet,
  beaten: Beaten | null,
): void {
  const { model } = survey
  const question = questionShowing(
    survey,
    { subnet, table },
    ranges,
    ({ way, cause }) => !way.includes(firewall) && !isDenied(cause),
  )
  if (!question) return
  const winner = beaten?.winner ?? null
  const by =
    winner === null
      ? 'another way'
      : winner.origin === 'learned'
        ? `a learned route`
        : winner.target.kind === 'peering'
          ? 'a peering route'
          : 'the built-in local route'
  out.push(
    finding({
      code: 'leak-round-firewall',
      severity: 'high',
      anchor: subnet.ref,
      objects: [
        subnet.ref,
        ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []),
        firewall,
        winner?.target.kind === 'peering' ? `peerings/${winner.target.id}` : null,
      ],
      sentence: `Packets from ${subnet.id} to ${listText(spaceTexts(model, ranges))} go round ${nameOf(firewall)}: ${by} wins there.`,
      root: rootOfGoingRound({ model, subnet, hosts: table, dst: ranges[0]!.from }, firewall),
      part: firewall,
      ranges: rangeTexts(ranges, 30),
      mend: beaten && leadThrough(model, subnet, ranges, beaten.winner, beaten.covered),
      question,
    }),
  )
}
