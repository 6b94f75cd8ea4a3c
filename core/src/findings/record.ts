import type { ExitColumn } from '../exits/columns'
import type { Family, Severity } from './finding'
import type { AnchorSection } from './network'
import type { Check } from './survey'

/** All there is to say of one code. Every code has one record, in the file of its family. */
export interface FindingRecord {
  readonly family: Family
  /** The sections its anchor may be of; a finding lies in the network of its anchor. */
  readonly anchors: readonly AnchorSection[] | 'any'
  /** The severities it may have, the worst first. */
  readonly severities: readonly Severity[]
  /**
   * One or two sentences for a reader who meets it for the first time, with the rule of forwarding
   * behind it.
   */
  readonly about: string
  /** What comes of it, as a clause, for several findings that one thing decides. */
  readonly effect: string
  /**
   * The column of Exits it marks for traffic that leaves: always one, or those its ranges lie in.
   */
  readonly leaving: ExitColumn | 'by-its-ranges' | null
  /** Whether it marks a column for traffic that enters: that of where its packet comes from. */
  readonly entering: boolean
  /** The checks that find it, with their subjects; a check may find several codes. */
  readonly foundBy: readonly Check[]
  /**
   * How its mend is found:
   * - `by-leading`: changes are tried until the packet that shows it is delivered and answered, as
   *   for a trace of that packet. Where no packet shows it, its check names the mend;
   * - `by-stopping`: changes are tried until that packet is stopped;
   * - `by-its-check`: its check names a recipe, since the estate itself says what was meant;
   * - `never`: the estate does not say what was meant.
   */
  readonly mended: 'by-leading' | 'by-stopping' | 'by-its-check' | 'never'
}
