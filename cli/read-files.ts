import { readFileSync, statSync } from 'node:fs'
import {
  DEFAULT_LIMITS,
  errorsOf,
  readEstate,
  type Estate,
  type Problem,
  type ReadResult,
  type SourceFile,
} from '@salt-trail/core'

/**
 * Reads the files named on the command line. A file that cannot be read is a problem like any
 * other.
 */
export function readFiles(names: readonly string[]): { files: SourceFile[]; problems: Problem[] } {
  const files: SourceFile[] = []
  const problems: Problem[] = []
  for (const name of names) {
    try {
      if (name !== '-' && statSync(name).size > DEFAULT_LIMITS.bytes) {
        problems.push(
          unreadable(
            name,
            'limit-bytes',
            `is larger than ${DEFAULT_LIMITS.bytes} bytes (limit: bytes)`,
          ),
        )
        continue
      }
      files.push({ name, text: readFileSync(name === '-' ? 0 : name, 'utf8') })
    } catch (error) {
      problems.push(unreadable(name, 'unreadable', reasonOf(error)))
    }
  }
  return { files, problems }
}

const unreadable = (file: string, code: string, what: string): Problem => ({
  severity: 'error',
  code,
  message: `${file} ${what}`,
  file,
  line: 1,
  column: 1,
  object: null,
})

export function reasonOf(error: unknown): string {
  const { code, message } = error as NodeJS.ErrnoException
  if (code === 'ENOENT') return 'is not there'
  if (code === 'EISDIR') return 'is a folder; name the files in it'
  if (code === 'EACCES') return 'may not be read by you'
  return `cannot be read: ${message}`
}

/** Files to an estate; without one, every problem is in the result. */
export function readEstateFiles(
  names: readonly string[],
): Pick<ReadResult, 'estate' | 'problems' | 'locate'> {
  const { files, problems } = readFiles(names)
  if (problems.length > 0)
    return {
      estate: null,
      problems: [...problems, ...(files.length > 0 ? readEstate(files).problems : [])],
      locate: readEstate(files).locate,
    }
  return readEstate(files)
}

/** The estate, or null after its errors were told on stderr. Warnings stay with `check`. */
export function estateOrComplain(names: readonly string[]): Estate | null {
  const { estate, problems } = readEstateFiles(names)
  if (estate) return estate
  for (const problem of errorsOf(problems)) process.stderr.write(`${problemLine(problem)}\n`)
  return null
}

export const problemLine = (p: Problem): string =>
  `${p.file}:${p.line}:${p.column}: ${p.severity}: ${p.message} [${p.code}]`
