import { formatAddress } from '../address/address'
import { formatPrefix, prefixOf } from '../address/prefix'
import { intersectRanges, partsWithin, rangeSetOf, subtractRanges } from '../address/ranges'
import { destinationPrefixes } from '../model/routes'
import type { Model, SubnetModel } from '../model/model'
import { ruleBook } from '../rules/rule-book'
import { finding, unique, type Finding } from './finding'
import { FAMILIES, fromText, listText, nameOf, rangeTexts, type Check, type Survey } from './survey'
import { subnetSpaceRanges } from './ways'

/** Rules that name somewhere no route leads, and routes to where no rule lets anything go. */
export const checkRulesAndRoutes: Check = (survey) => {
  const { model } = survey
  const out: Finding[] = []
  const known = new Map<string, ReturnType<typeof rangeSetOf>>()
  const inside = [
    ...subnetSpaceRanges(model),
    ...rangeSetOf([...model.index.sites.keys()].flatMap((id) => (model.estate.sites.get(id)?.ranges ?? []).map(prefixOf))),
  ]
  const places = rangeSetOf([])
    .concat(inside)
    .sort((a, b) => (typeof a.from === typeof b.from ? (a.from < b.from ? -1 : 1) : typeof a.from === 'number' ? -1 : 1))
  const namedBy = (set: number): ReturnType<typeof rangeSetOf> => {
    const { ref } = ruleBook(model).set(set)
    let ranges = known.get(ref)
    if (!ranges) {
      const rules = model.estate.ruleSets.get(nameOf(ref))?.rules ?? []
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
      known.set(ref, (ranges = intersectRanges(rangeSetOf(prefixes), places)))
    }
    return ranges
  }
  for (const subnet of survey.subnets) {
    if (!subnet.up) continue
    for (const table of survey.tablesOf(subnet)) {
      const [index] = table.kind.interfaces
      if (index === undefined) continue
      const sets = [...model.interfaces[index]!.ruleSets, ...subnet.ruleSets]
      for (const set of sets) {
        const wanted = subtractRanges(namedBy(set), rangeSetOf(subnet.allRanges))
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
            objects: [subnet.ref, ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []), ref],
            sentence: `${nameOf(ref)} lets ${subnet.id} reach ${listText(rangeTexts(wanted, 3))}, but no route leads there (${lost[0]!.outcome.cause!.code}).`,
            part: ref,
            ranges: rangeTexts(wanted, 20),
            question: { from: fromText(model, subnet, table), to: formatAddress(lost[0]!.ranges[0]!.from) },
          }),
        )
      }
      out.push(...routesWithoutRules(survey, subnet, table))
    }
  }
  return unique(out)
}

function routesWithoutRules(survey: Survey, subnet: SubnetModel, table: ReturnType<Survey['tablesOf']>[number]): Finding[] {
  const { model } = survey
  return FAMILIES.flatMap((family) =>
    table[family].flatMap(({ hop, from, to }) => {
      const route = hop.winners.find(
        (winner) => winner.origin === 'table' && winner.prefix.length > 0 && winner.target.kind !== 'local' && winner.target.kind !== 'drop',
      )
      if (!route || hop.cause !== null || hop.reaches === 'internet') return []
      const meant = subtractRanges(partsWithin(subnetSpaceOrSites(model), { from, to }), rangeSetOf(subnet.allRanges))
      if (meant.length === 0 || table.kind.interfaces.some((index) => survey.rulesAllow(index, meant))) return []
      const prefix = rangeTexts([{ from, to }], 3)
      const sets = [...new Set(table.kind.interfaces.flatMap((index) => [...model.interfaces[index]!.ruleSets, ...subnet.ruleSets]))].map(
        (set) => ruleBook(model).set(set).ref,
      )
      return [
        finding({
          code: 'hole-route-without-rules',
          severity: 'medium',
          anchor: subnet.ref,
          objects: [...sets, subnet.ref, model.tables[route.table]!.ref],
          sentence: `A route leads ${subnet.id} to ${listText(prefix)}, but no rule of its hosts lets anything go there.`,
          part: `${model.tables[route.table]!.id} ${formatPrefix(route.prefix)}`,
          ranges: prefix,
          question: { from: fromText(model, subnet, table), to: formatAddress(meant[0]!.from) },
        }),
      ]
    }),
  )
}

const spaces = new WeakMap<Model, ReturnType<typeof rangeSetOf>>()
function subnetSpaceOrSites(model: Model): ReturnType<typeof rangeSetOf> {
  let known = spaces.get(model)
  if (!known) {
    const sites = [...model.index.sites.keys()].flatMap((id) => (model.estate.sites.get(id)?.ranges ?? []).map(prefixOf))
    const subnets = model.subnets.filter((subnet) => model.index.subnets.has(subnet.id)).flatMap((subnet) => subnet.allRanges)
    spaces.set(model, (known = rangeSetOf([...subnets, ...sites])))
  }
  return known
}
