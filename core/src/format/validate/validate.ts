import type { Estate } from '../estate'
import type { Problem } from '../problem'
import type { Section } from '../schema/document'
import type { Part, Path } from '../read/source'
import { checkAddressing } from './addressing'
import { checkOverlaps } from './overlaps'
import { checkPlacement } from './placement'
import { checkReferences } from './references'
import { checkRouting } from './routing'
import { checkRules } from './rules'
import type { Checking, Report } from './checking'

type Locate = (
  section: Section,
  id: string,
  path?: Path,
  part?: Part,
) => { file: string; line: number; column: number }

/** Checks keep so many errors, and so many warnings; what is beyond is only counted. */
const MOST_KEPT = 2_000

/** What checks find, and how much of it was only counted. */
export interface Found {
  readonly problems: readonly Problem[]
  readonly beyond: Readonly<Record<Problem['severity'], number>>
}

/** Everything about an estate that no single object shows: the list at the end of design part 2. */
export function validate(
  estate: Estate,
  locate: Locate,
  declared: Checking['declared'],
  listIds: Checking['listIds'],
): Found {
  const problems: Problem[] = []
  const kept = { error: 0, warning: 0 }
  const beyond = { error: 0, warning: 0 }
  const reporter =
    (severity: Problem['severity']): Report =>
    (at, code, message, suggestion) => {
      if (++kept[severity] > MOST_KEPT) {
        beyond[severity]++
        return
      }
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
  return { problems, beyond }
}
