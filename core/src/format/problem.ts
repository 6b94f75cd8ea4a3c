/**
 * Something wrong with an estate file. An error refuses the estate; a warning is taken, and shown.
 */
export interface Problem {
  readonly severity: 'error' | 'warning'
  /** A stable word for the kind of problem, such as `host-bits`. */
  readonly code: string
  /** What is wrong and what to do, as a sentence for people. */
  readonly message: string
  readonly file: string
  /** Counted from 1. */
  readonly line: number
  /** Counted from 1, in characters. */
  readonly column: number
  /** The object concerned as `section/id`, or null where the problem is outside any object. */
  readonly object: string | null
  /** What most likely was meant, ready to take the place of what is there. */
  readonly suggestion?: string
  /** How many problems this entry stands for, where they are too many to be told in full. */
  readonly more?: number
}

/** So many errors, and so many warnings, are told in full. */
export const MOST_TOLD = 200

/**
 * Sorted problems, of which so many errors and warnings are told in full; in place of the others
 * stands one entry that counts them. `beyond` counts those that were not even kept.
 */
export function tellMost(
  problems: readonly Problem[],
  beyond: Readonly<Record<Problem['severity'], number>> = { error: 0, warning: 0 },
): Problem[] {
  const seen = { error: 0, warning: 0 }
  const told: Problem[] = []
  const first = new Map<Problem['severity'], number>()
  for (const problem of problems) {
    const { severity } = problem
    if (++seen[severity] <= MOST_TOLD) told.push(problem)
    else if (!first.has(severity)) {
      first.set(severity, told.length)
      told.push(problem)
    }
  }
  for (const [severity, at] of first) {
    const more = seen[severity] - MOST_TOLD + beyond[severity]
    const { file, line, column } = told[at]!
    told[at] = {
      ...{ severity, code: 'more-problems', file, line, column, object: null, more },
      message: `and ${more} more ${severity}s from here on; they are told once others are mended`,
    }
  }
  return told
}

/** How many problems there are in a list, those that are only counted among them. */
export const countProblems = (problems: readonly Pick<Problem, 'more'>[]): number =>
  problems.reduce((sum, { more = 1 }) => sum + more, 0)

/** Problems as the command line and the API print them: errors and warnings apart, in order. */
export interface ProblemsJson {
  readonly errors: readonly Omit<Problem, 'severity'>[]
  readonly warnings: readonly Omit<Problem, 'severity'>[]
}

/** Problems as the command line and the API print them. */
export const problemsJson = (problems: readonly Problem[]): ProblemsJson => ({
  errors: errorsOf(problems).map(withoutSeverity),
  warnings: warningsOf(problems).map(withoutSeverity),
})

const withoutSeverity = ({
  code,
  message,
  file,
  line,
  column,
  object,
  suggestion,
  more,
}: Problem): Omit<Problem, 'severity'> => ({
  code,
  message,
  file,
  line,
  column,
  object,
  ...(suggestion === undefined ? {} : { suggestion }),
  ...(more === undefined ? {} : { more }),
})

/** The errors among some problems. */
export const errorsOf = (problems: readonly Problem[]): Problem[] =>
  problems.filter((p) => p.severity === 'error')
/** The warnings among some problems. */
export const warningsOf = (problems: readonly Problem[]): Problem[] =>
  problems.filter((p) => p.severity === 'warning')

/** By file in the order given, then by position. */
export function sortProblems(problems: readonly Problem[], files: readonly string[]): Problem[] {
  const rank = new Map(files.map((name, index) => [name, index]))
  return [...problems].sort(
    (a, b) =>
      (rank.get(a.file) ?? 0) - (rank.get(b.file) ?? 0) ||
      a.line - b.line ||
      a.column - b.column ||
      (a.code < b.code ? -1 : a.code > b.code ? 1 : 0),
  )
}
