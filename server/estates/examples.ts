import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { SourceFile } from '@salt-trail/core'
import { folderOf } from '../files'

/**
 * The small estates that each teach one thing: a name, and the sentence their first comment line
 * says.
 */
export function listExamples(): { name: string; teaches: string }[] {
  const folder = folderOf('examples')
  return readdirSync(folder)
    .filter((file) => file.endsWith('.yaml'))
    .sort()
    .map((file) => ({
      name: file.slice(0, -5),
      teaches: firstComment(readFileSync(join(folder, file), 'utf8')),
    }))
}

export function readExample(name: string): SourceFile | null {
  const path = join(folderOf('examples'), `${name}.yaml`)
  return existsSync(path) ? { name: `${name}.yaml`, text: readFileSync(path, 'utf8') } : null
}

const firstComment = (text: string): string => /^#\s*(.+)$/m.exec(text)?.[1] ?? ''
