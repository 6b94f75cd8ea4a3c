import type { FindingCode } from '../findings/finding'
import { formatPrefix } from '../address/prefix'
import { prefixesOfRange } from '../address/ranges'
import { mend, type Mend } from '../mend/mend'
import { addRoute, replaceVia } from '../mend/recipes/routes'
import { firstLookUp } from '../mend/recipes/answers'
import { lookedUpLast, type Looked } from '../mend/situation'
import type { Model } from '../model/model'
import { isRefusal } from '../trace/question'
import { trace } from '../trace/trace'
import type { Purpose } from './purpose'

/** Losses by a route that leads somewhere, and not to where its packets are for. */
const LED_ASTRAY: ReadonlySet<FindingCode> = new Set([
  'hole-loop',
  'hole-not-transitive',
  'hole-forwarded-refused',
  'hole-dead-target',
  'hole-next-hop',
  'hole-nat-out-of-reach',
])

/** At most so many routes to `drop` are added. */
const MOST_DROPPED = 4

/**
 * Changes by which packets that a route leads astray are dropped at once: the route itself leads to
 * `drop`, or routes to `drop` are added for just what the finding speaks of, where its packet was
 * looked up last or first. For findings without a harmless change that delivers the packets. Costs
 * one trace.
 */
export function dropOnPurpose(model: Model, purpose: Purpose): readonly Mend[] {
  const { finding, question } = purpose
  if (finding === null || question === null || !LED_ASTRAY.has(finding.code)) return []
  const answer = trace(model, question)
  if (isRefusal(answer) || answer.forward.outcome === 'delivered') return []
  const { stations } = answer.forward
  const last = lookedUpLast(stations)
  const lost = purpose.ends.ranges.flatMap(prefixesOfRange).map(formatPrefix)
  const isExact = lost.length > 0 && lost.length <= MOST_DROPPED
  const exactly = isExact
    ? [last, firstLookUp(stations)].map((lookup) => drops(model, lookup, lost))
    : []
  return [dropping(model, last), ...exactly].filter((one) => one !== null)
}

/** The route that won a look-up leads to `drop` instead. */
function dropping({ estate }: Model, lookup: Looked | null): Mend | null {
  if (lookup?.table == null || lookup.entry < 0) return null
  const to = estate.routeTables.get(lookup.table)?.routes?.[lookup.entry]?.to
  const what = typeof to === 'string' ? to : 'what its route takes'
  return mend(`drop ${what} in ${lookup.table} ${INSTEAD}`, [
    replaceVia(lookup.table, lookup.entry, 'drop'),
  ])
}

/** Routes to `drop` for some destinations, in the table of a look-up. */
const drops = (model: Model, lookup: Looked | null, lost: readonly string[]): Mend | null =>
  lookup === null
    ? null
    : mend(
        `drop ${lost.join(', ')} in ${lookup.table ?? lookup.subnet} ${INSTEAD}`,
        lost.flatMap((prefix) => addRoute(model, lookup, prefix, 'drop')),
      )

/** What becomes of the packets: no way that delivers them without harm was found. */
const INSTEAD = 'at once, instead of losing it further on'
