import { spawnSync } from 'node:child_process'
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

export const root = join(__dirname, '../..')
export const folder = mkdtempSync(join(tmpdir(), 'salt-trail-cli-'))
afterAll(() => rmSync(folder, { recursive: true }))

/** Runs the command line as a person would, in a process of its own. */
export function saltTrail(...args: string[]): { status: number | null; out: string; err: string } {
  const { status, stdout, stderr } = spawnSync(
    process.execPath,
    [join(root, 'bin/salt-trail'), ...args],
    {
      encoding: 'utf8',
      cwd: root,
      input: '',
      maxBuffer: 1e9,
    },
  )
  return { status, out: stdout, err: stderr }
}

/** A file for a test, in a folder that goes when the tests end. */
export function file(name: string, text: string): string {
  const path = join(folder, name)
  writeFileSync(path, text)
  return path
}

/** The files of the demo. */
export const demo = readdirSync(join(root, 'demo'))
  .filter((name) => name.endsWith('.yaml'))
  .map((name) => join('demo', name))

/** What is found at the first call, for every call. */
export function once<T>(find: () => T): () => T {
  let found: { readonly value: T } | null = null
  return () => (found ??= { value: find() }).value
}
