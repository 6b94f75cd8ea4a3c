import { explainCause, type Cause, type HopRangeJson } from '@salt-trail/core'
import { wayInOrder } from '~/objects/way-element'

/** What becomes of packets to a range, in words: the way they take, or why they are lost. */
export const fareText = ({ cause, way }: Pick<HopRangeJson, 'cause' | 'way'>): string =>
  cause
    ? explainCause(cause as Pick<Cause, 'code' | 'object' | 'inner'>)
    : wayInOrder(way) || 'handed over inside the network'

/** A range of destinations in words: a prefix where it is one. */
export const prefixText = (range: HopRangeJson): string =>
  range.prefixes.length === 1 ? range.prefixes[0]! : `${range.from} – ${range.to}`

/** The addresses that the far side of a range sees. */
export const seenText = ({ cause, way, seenAs }: HopRangeJson): string =>
  cause || way.length === 0 ? '' : seenAs.join(', ') || 'itself'
