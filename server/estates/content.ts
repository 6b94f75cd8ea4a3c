import { writeJson, type Estate } from '@salt-trail/core'
import { rangeRows, type RangeRow } from './ranges'

/**
 * What is saved of an estate that was read: plain texts and rows, so that another thread can make
 * it.
 */
export interface EstateContent {
  readonly name: string
  /** The whole estate in the format, JSON notation, in its own order. */
  readonly document: string
  readonly ranges: readonly RangeRow[]
}

export const contentOf = (estate: Estate): EstateContent => ({
  name: estate.name,
  document: writeJson(estate),
  ranges: rangeRows(estate),
})
