import { errorsOf, readEstate, warningsOf, type Estate, type Problem, type SourceFile } from '@salt-trail/core'
import { refusal } from './respond'

type Spoken = Omit<Problem, 'severity'>

const spoken = ({ code, message, file, line, column, object, suggestion }: Problem): Spoken => ({
  code,
  message,
  file,
  line,
  column,
  object,
  ...(suggestion === undefined ? {} : { suggestion }),
})

export function problemsJson(problems: readonly Problem[]): { errors: Spoken[]; warnings: Spoken[] } {
  return { errors: errorsOf(problems).map(spoken), warnings: warningsOf(problems).map(spoken) }
}

/** The estate of some files, or a refusal with every error. */
export function estateOrRefusal(files: readonly SourceFile[]): { estate: Estate; warnings: Spoken[] } {
  const { estate, problems } = readEstate(files)
  const { errors, warnings } = problemsJson(problems)
  if (!estate)
    throw refusal(422, 'invalid-estate', `the files hold ${errors.length} error${errors.length === 1 ? '' : 's'}; nothing was saved`, { errors, warnings })
  return { estate, warnings }
}
