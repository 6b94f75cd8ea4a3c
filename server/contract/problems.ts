import { problemsJson, readEstate, type Estate, type ProblemsJson, type SourceFile } from '@salt-trail/core'
import { refusal } from './respond'

/** The estate of some files, or a refusal with every error. */
export function estateOrRefusal(files: readonly SourceFile[]): { estate: Estate; warnings: ProblemsJson['warnings'] } {
  const { estate, problems } = readEstate(files)
  const { errors, warnings } = problemsJson(problems)
  if (!estate)
    throw refusal(422, 'invalid-estate', `the files hold ${errors.length} error${errors.length === 1 ? '' : 's'}; nothing was saved`, { errors, warnings })
  return { estate, warnings }
}
