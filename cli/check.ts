import { problemsJson } from '@salt-trail/core'
import { FINE, FOUND, REFUSED } from './exit-status'
import { problemLine, readEstateFiles } from './read-files'

/** `salt-trail check`: every error and warning of the files. */
export function check(names: readonly string[], options: { format: 'text' | 'json' }): number {
  const { problems } = readEstateFiles(names)
  const json = problemsJson(problems)
  const { errors, warnings } = json
  if (options.format === 'json') process.stdout.write(`${JSON.stringify(json, null, 2)}\n`)
  else {
    for (const problem of problems) process.stderr.write(`${problemLine(problem)}\n`)
    process.stderr.write(`${count(errors.length, 'error')}, ${count(warnings.length, 'warning')}\n`)
  }
  return errors.length > 0 ? REFUSED : warnings.length > 0 ? FOUND : FINE
}

const count = (n: number, what: string): string => `${n} ${what}${n === 1 ? '' : 's'}`
