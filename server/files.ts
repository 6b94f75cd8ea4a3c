import { existsSync, readdirSync, readFileSync, realpathSync } from 'node:fs'
import { dirname, join } from 'node:path'
import type { SourceFile } from '@salt-trail/core'

/** Where a kind of file lies: beside the built server, or in the sources while developing. */
export function folderOf(kind: 'migrations' | 'demo' | 'examples'): string {
  const built = join(dirname(realpathSync(process.argv[1] ?? '.')), kind)
  if (existsSync(built)) return built
  return join(process.cwd(), kind === 'migrations' ? 'server/database/migrations' : kind)
}

/** The estate files of a folder, in the order of their names. */
export function estateFilesIn(folder: string): SourceFile[] {
  return readdirSync(folder)
    .filter((name) => /\.(ya?ml|json)$/.test(name))
    .sort()
    .map((name) => ({ name, text: readFileSync(join(folder, name), 'utf8') }))
}

/**
 * The file of a worker: beside the built server or the worker that asks, or in its build while it
 * runs from elsewhere.
 */
export function workerFile(
  name:
    'analysis' | 'analysis-process' | 'answers' | 'comparison' | 'drafts' | 'proposals' | 'reading',
): string {
  const folder = dirname(realpathSync(process.argv[1] ?? '.'))
  for (const beside of [join(folder, 'workers', `${name}.mjs`), join(folder, `${name}.mjs`)])
    if (existsSync(beside)) return beside
  const developing = join(process.cwd(), '.nuxt/workers', `${name}.mjs`)
  return existsSync(developing)
    ? developing
    : join(process.cwd(), '.output/server/workers', `${name}.mjs`)
}
