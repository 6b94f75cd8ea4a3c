import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { workerFile } from '../files'

let known: string | undefined

/** Names the code that analyses: what another version found is computed anew. */
export function engine(): string {
  known ??= createHash('sha256')
    .update(readFileSync(workerFile('analysis')))
    .digest('hex')
    .slice(0, 16)
  return known
}
