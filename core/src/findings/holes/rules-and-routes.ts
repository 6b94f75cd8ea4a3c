import { rootOfLoss } from '../deciding'
import { spaceTexts } from '../../addresses/named-space'
import { derived } from '../../incremental/derived'
import { formatAddress } from '../../address/address'
import { formatPrefix, prefixOf } from '../../address/prefix'
import {
  sameRanges,
  intersectRanges,
  partsWithin,
  rangeSet,
  rangeSetOf,
  subtractRanges,
  type Range,
  type RangeSet,
} from '../../address/ranges'

import { destinationPrefixes } from '../../model/routes'
import type { HopRange } from '../../hops/sweep'
import { cached, lazy } from '../../incremental/cells'
import type { Model, RouteModel, SubnetModel } from '../../model/model'
import { ruleBook } from '../../rules/rule-book'
import { finding, unique, type Finding } from '../finding'
import {
  checkSubnets,
  FAMILIES,
  fromText,
  hostIn,
  listText,
  nameOf,
  rangeTexts,
  subnetSpaceRanges,
  type CheckContext,
} from '../survey'
import { idsOf } from '../../model/present'

/** Rules that name somewhere no route leads, and routes to where no rule lets anything go. */
export const checkRulesAndRoutes = checkSubnets('rules and routes', (survey, subnet) => {
  const { model } = survey
  const out: Finding[] = []
  if (!subnet.up) return out
  for (const table of survey.tablesOf(subnet)) {
    const [index] = table.kind.interfaces
    if (index === undefined) continue
    const sets = [...model.interfaces[index]!.ruleSets, ...subnet.ruleSets]
    for (const set of sets) {
      const wanted = subtractRanges(namedBy(model, set), rangeSetOf(subnet.allRanges))
      if (wanted.length === 0) continue
      const parts = FAMILIES.flatMap((family) => survey.meet(subnet, table, family, wanted))
      const lost = parts.filter(({ outcome }) => outcome.cause !== null)
      if (parts.length === 0 || lost.length < parts.length) continue
      const { ref } = ruleBook(model).set(set)
      out.push(
        finding({
          code: 'hole-rules-without-route',
          severity: 'medium',
          anchor: subnet.ref,
          objects: [
            subnet.ref,
            ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []),
            ref,
          ],
          sentence: `${nameOf(ref)} lets ${subnet.id} reach ${listText(spaceTexts(model, wanted))}, but no route leads there (${lost[0]!.outcome.cause!.code}).`,
          root: rootOfLoss(lost[0]!.outcome.cause!, {
            model,
            subnet,
            hosts: table,
            dst: lost[0]!.ranges[0]!.from,
          }),
          part: ref,
          ranges: rangeTexts(wanted, 20),
          question: {
            from: fromText(model, subnet, table),
            to: formatAddress(hostIn(survey, lost[0]!.ranges)),
          },
        }),
      )
    }
    out.push(...routesWithoutRules(survey, subnet, table))
  }
  return unique(out)
})

/** Destinations inside that a written route leads to, whole. */
interface Steered extends Range {
  readonly route: RouteModel
  readonly inside: RangeSet
}

const steered = new WeakMap<readonly HopRange[], readonly Steered[]>()

/** The same for all who share their routing. */
const steeredInside = (model: Model, ranges: readonly HopRange[]): readonly Steered[] =>
  cached(steered, ranges, () =>
    ranges.flatMap(({ hop, from, to }) => {
      const route = hop.winners.find(
        (winner) =>
          winner.origin === 'table' &&
          winner.prefix.length > 0 &&
          winner.target.kind !== 'local' &&
          winner.target.kind !== 'drop',
      )
      if (!route || hop.cause !== null || hop.reaches === 'internet') return []
      const inside = partsWithin(subnetSpaceOrSites(model), { from, to })
      return inside.length === 0 ? [] : [{ from, to, route, inside }]
    }),
  )

/** The places inside that a rule set lets packets go to by name of their ranges. */
const namedBy = derived(
  (model: Model, set: number): RangeSet => {
    const rules = model.estate.ruleSets.get(nameOf(ruleBook(model).set(set).ref))?.rules ?? []
    const prefixes = rules
      .filter((rule) => rule.direction === 'out' && rule.action !== 'deny')
      .flatMap((rule) =>
        (rule.peers ?? []).flatMap((peer) =>
          typeof peer === 'string'
            ? peer.includes('/') && !peer.endsWith('/0')
              ? [prefixOf(peer)]
              : []
            : 'prefixList' in peer
              ? destinationPrefixes(model.estate, peer)
              : [],
        ),
      )
    return intersectRanges(rangeSetOf(prefixes), subnetSpaceOrSites(model))
  },
  { same: sameRanges },
)

function routesWithoutRules(
  survey: CheckContext,
  subnet: SubnetModel,
  table: ReturnType<CheckContext['tablesOf']>[number],
): Finding[] {
  const { model } = survey
  const own = lazy(() => rangeSetOf(subnet.allRanges))
  return FAMILIES.flatMap((family) =>
    steeredInside(model, table.shared[family]).flatMap(({ from, to, route, inside }) => {
      const meant = subtractRanges(inside, own())
      if (
        meant.length === 0 ||
        table.kind.interfaces.some((index) => survey.rulesAllow(index, meant))
      )
        return []
      const prefix = rangeTexts([{ from, to }], 3)
      const sets = [
        ...new Set(
          table.kind.interfaces.flatMap((index) => [
            ...model.interfaces[index]!.ruleSets,
            ...subnet.ruleSets,
          ]),
        ),
      ].map((set) => ruleBook(model).set(set).ref)
      return [
        finding({
          code: 'hole-route-without-rules',
          severity: 'medium',
          anchor: subnet.ref,
          objects: [...sets, subnet.ref, model.tables[route.table]!.ref],
          sentence: `A route leads ${subnet.id} to ${listText(prefix)}, but no rule of its hosts lets anything go there.`,
          root: { kind: 'missing-rule', object: sets[0] ?? subnet.ref, part: 'out' },
          part: `${model.tables[route.table]!.id} ${formatPrefix(route.prefix)}`,
          ranges: prefix,
          question: {
            from: fromText(model, subnet, table),
            to: formatAddress(hostIn(survey, meant)),
          },
        }),
      ]
    }),
  )
}

const subnetSpaceOrSites = derived(
  (model: Model): RangeSet => {
    const sites = idsOf(model, 'sites').flatMap((id) =>
      (model.estate.sites.get(id)?.ranges ?? []).map(prefixOf),
    )
    return rangeSet([...subnetSpaceRanges(model), ...rangeSetOf(sites)])
  },
  { same: sameRanges },
)
