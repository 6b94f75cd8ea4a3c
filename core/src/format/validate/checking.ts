import type { Estate } from '../estate'
import type { Path, Part } from '../read/source'
import type { Section, ListSection } from '../schema/document'

/** What the checks share: the estate as far as it could be read, and a place to report to. */

export interface Checking {
  readonly estate: Estate
  /** Every id that was written in a section, also where its object could not be read. */
  readonly declared: (section: Section) => { has(id: string): boolean; keys(): Iterable<string> }
  /**
   * The ids under which the entries of a list section can be located, in the order of the estate's
   * list.
   */
  readonly listIds: (section: ListSection) => readonly string[]
  readonly error: Report
  readonly warning: Report
}

export type Report = (
  at: { section: Section; id: string; path?: Path; part?: Part; object?: string },
  code: string,
  message: string,
  suggestion?: string,
) => void
