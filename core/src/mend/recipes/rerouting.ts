import { viaText } from '../../model/targets'
import { type Mend, mend } from '../mend'
import { allowInSet, directionOf, peerOf, trafficText } from './rules'
import { type Situation, prefixFor, bringUp } from '../situation'
import { removeRoutes, setRoute } from './routes'
import { waysTowards } from './ways'

export type Recipe = (s: Situation) => Mend | null

/** Another way for the packet at the table that misrouted it, else its table without that route. */
export const reroute =
  (...without: string[]): Recipe =>
  (s) => {
    const via = waysTowards(s, [s.id, ...without])[0]
    if (via !== undefined)
      return mend(`route ${prefixFor(s, s.dst)} by ${viaText(via)}`, setRoute(s, via))
    return dropTheRoute(s)
  }

/** Removes the route that misrouted the packet. */
export const dropTheRoute: Recipe = ({ estate, lookup }) =>
  lookup?.table != null && lookup.entry >= 0
    ? removeRoutes(estate, lookup.table, [lookup.entry])
    : null

/** Brings the object up that failed. */
export const upAgain: Recipe = (s) => mend(`bring ${s.id} up`, bringUp(s.estate, s.section, s.id))

/** Lets the kind of traffic pass in the rule set that denied it. */
export const allow: Recipe = (s) =>
  mend(
    `allow ${trafficText(s)} ${directionOf(s) === 'in' ? 'from' : 'to'} ${peerOf(s)} in ${s.id}`,
    allowInSet(s),
  )
