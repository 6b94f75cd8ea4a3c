import type { ExitColumn } from '../exits/columns'
import type { Family, Severity } from './finding'
import type { Check } from './survey'

/** All there is to say of one code. Every code has one record, in the file of its family. */
export interface FindingRecord {
  readonly family: Family
  /** The severities it may have, the worst first. */
  readonly severities: readonly Severity[]
  /**
   * One or two sentences for whoever meets it the first time, with the rule of forwarding behind
   * it.
   */
  readonly about: string
  /**
   * The column of Exits it marks for traffic that leaves: always one, or those its ranges lie in.
   */
  readonly leaving: ExitColumn | 'by-its-ranges' | null
  /** Whether it marks a column for traffic that enters: that of where its packet comes from. */
  readonly entering: boolean
  /** The checks that find it, with their subjects; a check may find several codes. */
  readonly foundBy: readonly Check[]
  /**
   * What is tried where its check states no change: to lead the packet that shows it to its end and
   * back, or to stop it. Null where no packet says what was meant.
   */
  readonly sought: 'lead' | 'stop' | null
}
