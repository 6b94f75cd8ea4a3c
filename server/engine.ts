import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { workerFile } from './files'

let known: string | undefined

/**
 * Names the code that reads and analyses: what another version checked or found is checked or
 * computed anew.
 */
export function engine(): string {
  known ??= createHash('sha256')
    .update(readFileSync(workerFile('analysis')))
    .digest('hex')
    .slice(0, 16)
  return known
}
