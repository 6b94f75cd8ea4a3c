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

/** So many destinations are dropped by routes of their own. */
const MOST_DROPPED = 4

/**
 * The route that leads packets astray, told to drop them, or routes that drop just what a finding
 * speaks of, where its packet is lost or where it begins: what is lost anyway is then lost on
 * purpose, and at once. Only for want of a way that delivers it. Costs one trace.
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

/** The route that won a look-up drops what it took. */
function dropping({ estate }: Model, lookup: Looked | null): Mend | null {
  if (lookup?.table == null || lookup.entry < 0) return null
  const to = estate.routeTables.get(lookup.table)?.routes?.[lookup.entry]?.to
  const what = typeof to === 'string' ? to : 'what its route takes'
  return mend(`drop ${what} in ${lookup.table} ${SINCE}`, [
    replaceVia(lookup.table, lookup.entry, 'drop'),
  ])
}

/** Routes that drop some destinations where a packet was looked up. */
const drops = (model: Model, lookup: Looked | null, lost: readonly string[]): Mend | null =>
  lookup === null
    ? null
    : mend(
        `drop ${lost.join(', ')} in ${lookup.table ?? lookup.subnet} ${SINCE}`,
        lost.flatMap((prefix) => addRoute(model, lookup, prefix, 'drop')),
      )

const SINCE = 'on purpose, since no way leads there'
