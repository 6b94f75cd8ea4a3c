import type { Estate } from '../estate'
import type { Problem } from '../problem'
import type { ListSection, Section } from '../schema/document'
import type { Part, Path } from '../read/source'
import { checkAddressing } from './addressing'
import { checkOverlaps } from './overlaps'
import { checkPlacement } from './placement'
import { checkReferences } from './references'
import { checkRouting } from './routing'
import { checkRules } from './rules'

type Locate = (
  section: Section,
  id: string,
  path?: Path,
  part?: Part,
) => { file: string; line: number; column: number }

/** What the checks share: the estate as far as it could be read, and a place to report to. */
export interface Checking {
  readonly estate: Estate
  /** Every id that was written in a section, also where its object could not be read. */
  readonly declared: (section: Section) => { has(id: string): boolean; keys(): Iterable<string> }
  /** The ids under which the entries of a list section can be located, in the order of the estate's list. */
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

/** Everything about an estate that no single object shows: the list at the end of design part 2. */
export function validate(
  estate: Estate,
  locate: Locate,
  declared: Checking['declared'],
  listIds: Checking['listIds'],
): Problem[] {
  const problems: Problem[] = []
  const reporter =
    (severity: Problem['severity']): Report =>
    (at, code, message, suggestion) => {
      const object = at.object ?? `${at.section}/${at.id}`
      problems.push({
        severity,
        code,
        message: `${object}: ${message}`,
        ...locate(at.section, at.id, at.path, at.part),
        object,
        ...(suggestion === undefined ? {} : { suggestion }),
      })
    }
  const checking: Checking = {
    estate,
    declared,
    listIds,
    error: reporter('error'),
    warning: reporter('warning'),
  }
  checkReferences(checking)
  checkPlacement(checking)
  checkAddressing(checking)
  checkRouting(checking)
  checkRules(checking)
  checkOverlaps(checking)
  return problems
}
