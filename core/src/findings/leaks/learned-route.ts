import { spaceTexts } from '../../addresses/named-space'
import { rangeSet, type Range, rangesContain } from '../../address/ranges'
import { shadowedAt, type HopTable } from '../../hops/hops'
import type { HopRange } from '../../hops/sweep'
import type { Model, SubnetModel, RouteModel } from '../../model/model'
import type { Mend } from '../../mend/mend'
import { type Finding, finding } from '../finding'
import { isDenied, questionShowing } from '../shown'
import { leadThrough } from '../../mend/recipes/steering'
import { checkSubnets, FAMILIES, firewallsOf, listText, nameOf, rangeTexts } from '../survey'

/**
 * Learned routes that draw what a table's own default was to carry past a firewall, or to the
 * internet.
 */

export const checkLearned = checkSubnets('routes', (survey, subnet) => {
  const { model } = survey
  const out: Finding[] = []
  if (subnet.table < 0) return out
  const table = model.tables[subnet.table]!
  for (const hops of survey.tablesOf(subnet)) {
    for (const family of FAMILIES) {
      const drawn = hops[family].filter(
        (range) =>
          range.hop.winners.some((route) => route.origin === 'learned') &&
          shadowedAt(hops, range).some(isDefault),
      )
      if (drawn.length === 0) continue
      const byDefault = hops[family].filter(({ hop }) =>
        hop.winners.some((route) => isDefault(route) && route.origin === 'table'),
      )
      const guards = new Set(byDefault.flatMap(({ hop }) => firewallsOf(hop.ways)))
      const bad = drawn.filter(({ from, hop }) =>
        guards.size > 0
          ? !hop.ways.some((way) => way.some((ref) => guards.has(ref)))
          : isPublicRange(model, from),
      )
      if (bad.length === 0) continue
      const question = questionShowing(
        survey,
        { subnet, table: hops },
        rangeSet(bad),
        ({ way, cause }) => !way.some((ref) => guards.has(ref)) && !isDenied(cause),
      )
      if (!question) continue
      const sources = [
        ...new Set(
          bad.flatMap(({ hop }) => hop.winners.flatMap((route) => route.learnedFrom ?? [])),
        ),
      ]
      out.push(
        finding({
          code: 'leak-learned-route',
          severity: guards.size > 0 ? 'high' : 'medium',
          anchor: table.ref,
          objects: [table.ref, ...sources, subnet.ref, ...guards],
          sentence: `Routes that ${table.id} learns from ${listText(sources.map(nameOf))} draw ${listText(spaceTexts(model, bad))} away from its own default${guards.size > 0 ? ` through ${listText([...guards].map(nameOf))}` : ''}.`,
          root: { kind: 'learned-route', object: sources[0] ?? table.ref, part: table.ref },
          part: sources.join(),
          ranges: rangeTexts(bad, 20),
          question,
          mend: keepFromLearned(model, subnet, hops, bad),
        }),
      )
    }
  }
  return out
})

/** Leads what a learned route draws away where the table's own default leads. */
function keepFromLearned(
  model: Model,
  subnet: SubnetModel,
  hops: HopTable,
  bad: readonly HopRange[],
): Mend | null {
  const [first] = bad as [HopRange]
  const learned = first.hop.winners.find((route) => route.origin === 'learned')!
  const own = shadowedAt(hops, first).find(isDefault)!
  return leadThrough(model, subnet, rangeSet(bad), learned, own)
}

const isDefault = (route: RouteModel): boolean =>
  route.prefix.length === 0 && route.origin === 'table'
const isPublicRange = (model: Model, from: Range['from']): boolean =>
  rangesContain(model.internetSpace, from)
