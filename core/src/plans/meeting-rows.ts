import { intersectRanges, rangeSet, type RangeSet } from '../address/ranges'
import type { NamedRanges, Row } from '../consequences/rows'

/** Whether two rows share a packet of one sender. */
export const rowsMeet = (a: Row, b: Row): boolean =>
  meet(a.protocols, b.protocols) &&
  meet(a.dstPorts, b.dstPorts) &&
  meet(a.srcPorts, b.srcPorts) &&
  meet(all(a.to), all(b.to)) &&
  [...a.from].some(([name, own]) => meet(own, b.from.get(name) ?? []))

const meet = (a: RangeSet, b: RangeSet): boolean => intersectRanges(a, b).length > 0

const all = (ends: NamedRanges): RangeSet => rangeSet([...ends.values()].flat())
