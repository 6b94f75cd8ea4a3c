import { attributeOf } from '../root'
import { prefixesOverlap, formatPrefix } from '../../address/prefix'
import { finding } from '../finding'
import { checkWhole, nameOf, listText } from '../survey'

/** Networks that are connected and have ranges in common: only one of the two is reached. */

export const checkOverlaps = checkWhole('elements', ({ model }) => {
  const pairs = new Map<string, { a: number; b: number; by: string }>()
  const connect = (a: number, b: number, by: string): void => {
    if (a < 0 || b < 0 || a === b) return
    const [low, high] = a < b ? [a, b] : [b, a]
    if (!pairs.has(`${low} ${high}`)) pairs.set(`${low} ${high}`, { a: low, b: high, by })
  }
  for (const peering of model.peerings)
    if (peering.up) connect(peering.a.network, peering.b.network, peering.ref)
  for (const transit of model.transits) {
    if (!transit.up) continue
    const networks = [...transit.attachmentOf.keys()]
    const spans = networks
      .flatMap((index) => model.networks[index]?.ranges.map((range) => ({ index, range })) ?? [])
      .sort((x, y) => (x.range.address < y.range.address ? -1 : 1))
    for (let i = 0; i < spans.length; i++)
      for (
        let k = i + 1;
        k < spans.length && prefixesOverlap(spans[i]!.range, spans[k]!.range);
        k++
      )
        connect(spans[i]!.index, spans[k]!.index, transit.ref)
  }
  return [...pairs.values()].flatMap(({ a, b, by }) => {
    const [one, other] = [model.networks[a]!, model.networks[b]!]
    const both = one.ranges.flatMap((range) =>
      other.ranges
        .filter((r) => typeof r.address === typeof range.address && prefixesOverlap(range, r))
        .map((r) => (r.length > range.length ? r : range)),
    )
    if (both.length === 0) return []
    return [
      finding({
        code: 'hole-overlap',
        severity: 'high',
        anchor: one.ref,
        objects: [one.ref, other.ref, by],
        sentence: `${one.id} and ${other.id} are connected by ${nameOf(by)} and both have ${listText(both.map(formatPrefix))}: each reaches its own there, and never the other’s.`,
        root: attributeOf(one.ref, 'ranges'),
        part: other.ref,
        ranges: both.map(formatPrefix),
      }),
    ]
  })
})
